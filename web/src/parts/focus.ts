import { type RefObject, useEffect } from 'react'

/** What is worked on, in a place that says by `data-work` that its keys are for the middle of the page. */
export const workElement = (): HTMLElement | null => document.querySelector('[data-work] #main')

/** The focus goes to what is worked on, so that the next key is for it. */
export function focusWork(): void {
  workElement()?.focus({ preventScroll: true })
}

/**
 * Within this element a choice that is made gives the focus back to what is worked on: a select or checkbox by the pointer
 * at once, a select by keys with enter or escape, since the arrows alone go from one option to the next.
 */
export function useFocusBack(within: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    const element = within.current
    if (!element) return undefined
    let byKeys = false
    const onKey = (event: KeyboardEvent) => {
      byKeys = true
      if (event.target instanceof HTMLSelectElement && (event.key === 'Enter' || event.key === 'Escape')) {
        event.preventDefault()
        focusWork()
      }
    }
    const onPointer = () => {
      byKeys = false
    }
    const onChange = ({ target }: Event) => {
      const isChoice = target instanceof HTMLSelectElement || (target instanceof HTMLInputElement && target.type === 'checkbox')
      if (isChoice && !byKeys) focusWork()
    }
    element.addEventListener('keydown', onKey)
    element.addEventListener('pointerdown', onPointer, true)
    element.addEventListener('change', onChange)
    return () => {
      element.removeEventListener('keydown', onKey)
      element.removeEventListener('pointerdown', onPointer, true)
      element.removeEventListener('change', onChange)
    }
  }, [within])
}
