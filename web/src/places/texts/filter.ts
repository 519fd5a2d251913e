import type { operations } from '../../api/schema'

type Asked = NonNullable<operations['listTexts']['parameters']['query']>
type Lacked = NonNullable<Asked['lacks']>[number]

/** Which texts are shown. What is empty says nothing. */
export interface TextFilter {
  search: string
  split: string
  group: string
  source: string
  state: string
  type: string
  value: string
  since: string
  until: string
  /** NAME=VALUE each. */
  meta: readonly string[]
  lacks: readonly Lacked[]
}

const WORDS = ['search', 'split', 'group', 'source', 'state', 'type', 'value', 'since', 'until'] as const
const LACKED: readonly Lacked[] = ['group', 'dated', 'source']

export const NO_FILTER: TextFilter = {
  ...{ search: '', split: '', group: '', source: '', state: '', type: '', value: '', since: '', until: '' },
  meta: [],
  lacks: [],
}

/** As it stands in the address. */
export function filterOf(params: URLSearchParams): TextFilter {
  const words = Object.fromEntries(WORDS.map((name) => [name, params.get(name) ?? '']))
  const lacks = LACKED.filter((name) => params.getAll('lacks').includes(name))
  return { ...NO_FILTER, ...words, meta: params.getAll('meta').filter((pair) => pair.includes('=')), lacks }
}

export function paramsOf(filter: TextFilter): URLSearchParams {
  const params = new URLSearchParams()
  for (const name of WORDS) if (filter[name] !== '') params.set(name, filter[name])
  for (const pair of filter.meta) params.append('meta', pair)
  for (const name of filter.lacks) params.append('lacks', name)
  return params
}

/** As the server is asked. A value is one of a type. */
export function wishOf(filter: TextFilter): Asked {
  const wish: Asked = {}
  for (const name of WORDS) {
    const value = filter[name].trim()
    if (value !== '' && (name !== 'value' || filter.type !== '')) wish[name] = value
  }
  return {
    ...wish,
    ...(filter.meta.length > 0 ? { meta: [...filter.meta] } : {}),
    ...(filter.lacks.length > 0 ? { lacks: [...filter.lacks] } : {}),
  }
}

/** What a source says of a text, as the server takes it: NAME=VALUE, where a name may hold “=” too. */
export const pairOf = (name: string, value: string) => `${name.replaceAll('%', '%25').replaceAll('=', '%3D')}=${value}`

export function splitPair(pair: string): [string, string] {
  const at = pair.indexOf('=')
  return [pair.slice(0, at).replaceAll('%3D', '=').replaceAll('%25', '%'), pair.slice(at + 1)]
}

/** What it asks for besides words to search, each as a line says it. */
export function saidOf(filter: TextFilter): string[] {
  const { split, group, source, state, type, value, since, until } = filter
  return [
    split === 'none' ? 'no split' : split,
    group && `group ${group}`,
    state,
    type && (value ? `${type} “${value}”` : `with ${type}`),
    source && `from ${source}`,
    since && `from ${since}`,
    until && `to ${until}`,
    ...filter.meta.map((pair) => splitPair(pair).join(': ')),
    ...filter.lacks.map((name) => (name === 'dated' ? 'no date' : `no ${name}`)),
  ].filter((said) => said !== '')
}
