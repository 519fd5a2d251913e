const KEY = 'urdaten.project'

/** Slug of the project that was last open in this browser. */
export const lastProject = (): string | null => localStorage.getItem(KEY)

export function rememberProject(slug: string): void {
  localStorage.setItem(KEY, slug)
}
