import type { LookShown, WordShown } from '../../api/schema'

/** One way in which a place of a rule may vary: what the pattern says, and in words. */
export interface Way {
  pattern: string
  label: string
}

export type Times = '' | 'optional' | '1 or more' | 'up to 3'

/** A word, or the words of one name or span, with the ways in which it may vary. */
export interface Slot {
  /** First and last word, both included. */
  first: number
  last: number
  marked: boolean
  ways: readonly Way[]
  /** Which of them; those for most readers likeliest are offered first. */
  way: number
  times: Times
}

export const TIMES: readonly { value: Times; label: string }[] = [
  { value: '', label: 'once' },
  { value: 'optional', label: 'perhaps' },
  { value: '1 or more', label: 'one or more' },
  { value: 'up to 3', label: 'up to three' },
]

const quoted = (word: string, sign: string) => sign + word.replaceAll('\\', '\\\\').replaceAll(sign, `\\${sign}`) + sign
const nameOf = (name: string) => (/[(),"#]/.test(name) ? JSON.stringify(name) : name)
const INFLECTED = new Set(['NOUN', 'VERB', 'AUX', 'ADJ', 'ADV'])
const SHAPE_LABELS: Readonly<Record<string, string>> = {
  capital: 'any word with a capital',
  capitals: 'any word in capitals',
  small: 'any word in small letters',
  initial: 'any initial',
  figure: 'any figure',
  code: 'any code',
  letters: 'any word of letters',
  sign: 'any sign',
}

/** The words of a sentence from one to another as slots, each as it stands there; those of one name or span are one slot. */
export function slotsOf(look: LookShown, forms: readonly string[], first: number, last: number, marked: boolean): Slot[] {
  const slots: Slot[] = []
  let at = first
  while (at <= last) {
    // What a rule marks already needs no other rule, and a name that is part of what is marked is a word there.
    const [names, whole] = wholesAt(look.lists, marked ? [] : look.rules, look.words, at, last)
    const end = marked && (at > first || whole < last) ? at : whole
    const word = look.words[at]
    const alone = end === at && word !== undefined
    const own = alone ? waysOf(word, forms[at] ?? '') : [{ pattern: quoted(forms.slice(at, end + 1).join(' '), "'"), label: 'these words' }]
    const ways = end === whole ? [...names, ...own] : own
    slots.push({ first: at, last: end, marked, ways, way: likeliest(ways, marked && first < last ? SHAPES_FIRST : marked ? NAMES_FIRST : FORMS_FIRST), times: '' })
    at = end + 1
  }
  return slots
}

/** Whole names and spans that begin with a word, the longest of them, and its last word. */
function wholesAt(lists: LookShown['lists'], rules: LookShown['rules'], words: readonly WordShown[], at: number, most: number): [Way[], number] {
  const start = words[at]?.start
  const found = [
    ...lists.map((span) => ({ span, pattern: `list(${nameOf(span.maker)})`, label: `a name of ${span.maker}` })),
    ...[...lists, ...rules].map((span) => ({ span, pattern: `found(${span.type})`, label: `a span of ${span.type}` })),
  ].flatMap(({ span, pattern, label }) => {
    const end = words.findIndex((word) => word.end === span.end)
    return span.start === start && end >= at && end <= most ? [{ pattern, label, end }] : []
  })
  const end = Math.max(at, ...found.map((one) => one.end))
  const ways = new Map(found.filter((one) => one.end === end).map(({ pattern, label }) => [pattern, { pattern, label }]))
  return [[...ways.values()], end]
}

/** How one word may vary, from just so to any. */
function waysOf(word: WordShown, form: string): Way[] {
  const lemma = INFLECTED.has(word.tag) ? [{ pattern: `lemma(${quoted(word.lemma, "'")})`, label: `any form of ${word.lemma}` }] : []
  return [
    { pattern: quoted(form, "'"), label: 'this word' },
    { pattern: quoted(form, '"'), label: 'this word, written just so' },
    ...lemma,
    ...(word.tag ? [{ pattern: `tag(${word.tag})`, label: `any ${word.tag}` }] : []),
    ...word.shapes.map((shape) => ({ pattern: shape, label: SHAPE_LABELS[shape] ?? shape })),
    ...word.kinds.map((kind) => ({ pattern: `kind(${kind})`, label: `any word for ${/^[aeio]/.test(kind) ? 'an' : 'a'} ${kind}` })),
    { pattern: 'any', label: 'any word' },
  ]
}

const NAMES_FIRST = ['list(', 'figure', 'code', 'capital']
const SHAPES_FIRST = ['figure', 'code', 'initial', 'capital', 'list(']
const FORMS_FIRST = ['list(', 'lemma(']

/** Context stays as it is, but for its inflection; what is marked may be another name or figure. */
function likeliest(ways: readonly Way[], wanted: readonly string[]): number {
  for (const begin of wanted) {
    const at = ways.findIndex(({ pattern }) => pattern.startsWith(begin))
    if (at >= 0) return at
  }
  return 0
}

/** The line that slots come to. */
export function patternOf(slots: readonly Slot[]): string {
  const parts: string[] = []
  let inside = false
  for (const slot of slots) {
    if (slot.marked !== inside) parts.push(slot.marked ? '[' : ']')
    inside = slot.marked
    const pattern = slot.ways[slot.way]?.pattern ?? 'any'
    parts.push(slot.times ? `${slot.times} ${pattern}` : pattern)
  }
  if (inside) parts.push(']')
  return parts.join(' ')
}
