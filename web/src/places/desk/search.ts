import type { TypeShown } from '../../api/schema'
import { EVERY_LANE } from './lanes'
import type { Search } from './queries'

/** A search as its form holds it: everything as it was typed. */
export interface SearchForm {
  words: string
  source: string
  type: string
  named: string
  least: string
  most: string
  state: string
  title: string
  group: string
  since: string
  until: string
}

export const NO_SEARCH: SearchForm = { words: '', source: '', type: '', named: '', least: '', most: '', state: '', title: '', group: '', since: '', until: '' }

export const SOURCES = [{ value: '', label: 'gold' }, ...EVERY_LANE.map(([value, label]) => ({ value, label: label.toLowerCase() }))]
export const STATES = [
  { value: '', label: 'any' },
  { value: 'untouched', label: 'untouched' },
  { value: 'draft', label: 'begun, not signed' },
  { value: 'signed', label: 'signed' },
  { value: 'empty', label: 'signed as empty' },
  { value: 'asked', label: 'with a question' },
]

const BOUNDS = ['least', 'most'] as const

/** What the server is asked: only what is said, probabilities from per cent to parts. */
export function searchOf(form: SearchForm): Search | null {
  const typed = Object.entries(form) as [keyof SearchForm, string][]
  const said = typed.filter(([name, value]) => value.trim() !== '' && !BOUNDS.some((bound) => bound === name))
  const search: Search = Object.fromEntries(said.map(([name, value]) => [name, value.trim()]))
  for (const bound of BOUNDS) if (form[bound].trim() !== '') search[bound] = Number(form[bound].replace(',', '.')) / 100
  return Object.keys(search).length > 0 ? search : null
}

export function formOf(search: Search | null): SearchForm {
  const form = { ...NO_SEARCH }
  for (const [name, value] of Object.entries(search ?? {}))
    form[name as keyof SearchForm] = typeof value === 'number' ? String(Math.round(value * 1000) / 10) : (value ?? '')
  return form
}

/** Can what it finds be corrected at once? It has to say which gold spans it means. */
export function meansGold({ source, type, named }: Search): boolean {
  return !source && Boolean(type ?? named)
}

/** A search in words. */
export function describe(search: Search, types: readonly TypeShown[]): string {
  const { words, source, type, named, least, most, state, title, group, since, until } = search
  const per = (value: number | null | undefined) => `${Math.round((value ?? 0) * 1000) / 10} %`
  const bounds = [least == null ? '' : `from ${per(least)}`, most == null ? '' : `up to ${per(most)}`].filter(Boolean).join(' ')
  const name = types.find((t) => t.code === type)?.name ?? type
  const span = [name, named && `“${named}”`, bounds, (source || name || named || bounds) && `in ${SOURCES.find((s) => s.value === (source ?? ''))?.label ?? source ?? ''}`]
  return [
    words && `“${words}”`,
    span.filter(Boolean).join(' '),
    STATES.find((s) => s.value === state && s.value !== '')?.label,
    title && `title “${title}”`,
    group && `group ${group}`,
    since && `from ${since}`,
    until && `until ${until}`,
  ]
    .filter(Boolean)
    .join(' · ')
}
