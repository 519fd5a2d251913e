import { create } from 'zustand'

/** Light or dark: as the reader's system has it, or as they have chosen here. */
export type Scheme = 'system' | 'light' | 'dark'

const STORE = 'urdaten.scheme'

function kept(): Scheme {
  try {
    const found = localStorage.getItem(STORE)
    return found === 'light' || found === 'dark' ? found : 'system'
  } catch {
    return 'system'
  }
}

export const useScheme = create<{ scheme: Scheme }>(() => ({ scheme: kept() }))

export function chooseScheme(scheme: Scheme): void {
  useScheme.setState({ scheme })
  try {
    localStorage.setItem(STORE, scheme)
  } catch {
    // Without storage it lasts as long as the page.
  }
}

/** Draw everything in the chosen scheme from now on. */
export function followScheme(): void {
  const dark = window.matchMedia('(prefers-color-scheme: dark)')
  const apply = () => {
    const { scheme } = useScheme.getState()
    document.documentElement.classList.toggle('dark', scheme === 'dark' || (scheme === 'system' && dark.matches))
  }
  apply()
  dark.addEventListener('change', apply)
  useScheme.subscribe(apply)
}
