import type { FragmentWish, RuleShown, RuleWish } from '../../api/schema'

/** What is typed in a rule's form. */
export interface Draft {
  wish: RuleWish
  find: string
  notFind: string
  /** It was begun elsewhere, and nobody has typed in it. */
  begun?: boolean
}

/** What was typed and not saved, by project and rule, while one is elsewhere; lives as long as the page. */
export const drafts = new Map<string, Draft>()

/** As drafts, of fragments. */
export const fragmentDrafts = new Map<string, FragmentWish>()

/** Where the draft of a rule is kept; a new one has no number. */
export const draftKey = (project: string, rule?: number) => `${project} ${rule ?? 'new'}`

/** A rule as its form has it before anything is typed. */
export function draftOf(rule: RuleShown | undefined): Draft {
  if (!rule) return { wish: { name: '', type: '', pattern: '', must_find: [], must_not_find: [], about: '', on: true, priority: 'usual' }, find: '', notFind: '' }
  const { name, type, pattern, must_find, must_not_find, about, on, priority } = rule
  return { wish: { name, type, pattern, must_find, must_not_find, about, on, priority }, find: must_find.join('\n'), notFind: must_not_find.join('\n') }
}
