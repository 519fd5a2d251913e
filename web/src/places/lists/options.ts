import type { OptionsShown } from '../../api/schema'
import { plural } from '../../parts/words'

/** As lists are unless somebody says otherwise. */
export const AS_EVER: OptionsShown = {
  case: 'capital',
  exact_below: 0,
  accents: true,
  hyphens: false,
  endings: false,
  slips: false,
  shortest: 0,
  near: [],
  within: 5,
  not_after: [],
  not_before: [],
}

export const CASES: readonly { value: OptionsShown['case']; label: string }[] = [
  { value: 'capital', label: 'any case, but a name with a capital never in small letters' },
  { value: 'any', label: 'any case' },
  { value: 'exact', label: 'just as it is written' },
]

/** What stands between semicolons. */
export const asPhrases = (text: string): string[] => text.split(';').map((one) => one.trim()).filter(Boolean)

const either = (words: readonly string[]) => words.map((word) => `“${word}”`).join(' or ')

/** How the names of a list are looked for, in words. */
export function saidOf(options: OptionsShown): string {
  const said = [CASES.find(({ value }) => value === options.case)?.label ?? options.case]
  if (options.exact_below > 0 && options.case !== 'exact') said.push(`letter by letter below ${plural(options.exact_below, 'letter')}`)
  if (!options.accents || options.slips) said.push('accents do not count')
  if (options.hyphens) said.push('hyphens as spaces')
  if (options.endings) said.push('plurals and possessives too')
  if (options.slips) said.push('one slip in a word')
  if (options.shortest > 0) said.push(`nothing below ${plural(options.shortest, 'letter')}`)
  if (options.near.length > 0) said.push(`only within ${plural(options.within, 'token')} of ${either(options.near)}`)
  if (options.not_after.length > 0) said.push(`not after ${either(options.not_after)}`)
  if (options.not_before.length > 0) said.push(`not before ${either(options.not_before)}`)
  return `Looked for: ${said.join('; ')}.`
}
