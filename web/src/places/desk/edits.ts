/** What acts at the Desk do to the spans of a sentence. Pure, so that they are easy to be sure of. */
export interface Range {
  start: number
  end: number
}

export interface MarkedSpan extends Range {
  type: string
}

/** How spans of one sentence may stand to each other, as the scheme says. */
export type Overlap = 'apart' | 'nested' | 'free'

export function overlaps(a: Range, b: Range): boolean {
  return a.start < b.end && b.start < a.end
}

const holds = (a: Range, b: Range) => a.start <= b.start && b.end <= a.end
const sameRange = (a: Range, b: Range) => a.start === b.start && a.end === b.end
export const sameSpan = (a: MarkedSpan, b: MarkedSpan) => sameRange(a, b) && a.type === b.type

function ordered<T extends Range>(spans: readonly T[]): T[] {
  return [...spans].sort((a, b) => a.start - b.start || a.end - b.end)
}

/** May the two stand together? One range has one type here. */
function together(a: Range, b: Range, overlap: Overlap): boolean {
  if (!overlaps(a, b)) return true
  if (overlap === 'apart' || sameRange(a, b)) return false
  return overlap === 'free' || holds(a, b) || holds(b, a)
}

/** A new span takes the place of those that it cannot stand with. */
export function mark(spans: readonly MarkedSpan[], range: Range, type: string, overlap: Overlap = 'apart'): MarkedSpan[] {
  return ordered([...spans.filter((s) => together(s, range, overlap)), { start: range.start, end: range.end, type }])
}

/** The span that is meant by a selection: that very range, or the shortest one that holds it, or that it touches. */
export function spanAt<T extends Range>(spans: readonly T[], range: Range): T | undefined {
  const shortest = (found: readonly T[]) => [...found].sort((a, b) => a.end - a.start - (b.end - b.start))[0]
  return (
    spans.find((s) => sameRange(s, range)) ??
    shortest(spans.filter((s) => holds(s, range))) ??
    shortest(spans.filter((s) => overlaps(s, range)))
  )
}

/** The same span as another type. */
export function retype(spans: readonly MarkedSpan[], span: MarkedSpan, type: string): MarkedSpan[] {
  return spans.map((s) => (sameSpan(s, span) ? { ...s, type } : s))
}

export function without(spans: readonly MarkedSpan[], span: MarkedSpan): MarkedSpan[] {
  return spans.filter((s) => !sameSpan(s, span))
}

/** Every span that touches the range goes. */
export function removeAt(spans: readonly MarkedSpan[], range: Range): MarkedSpan[] {
  return spans.filter((s) => !overlaps(s, range))
}

/** The span with other bounds; it takes the place of what it now cannot stand with. */
export function rebound(spans: readonly MarkedSpan[], span: MarkedSpan, range: Range, overlap: Overlap): MarkedSpan[] {
  return mark(without(spans, span), range, span.type, overlap)
}

/** Bounds of a span with one of them moved by tokens; undefined where that would leave no token or the sentence. */
export function nudged(tokens: readonly Range[], span: Range, side: 'start' | 'end', by: number): Range | undefined {
  const place = tokensOf(tokens, span)
  if (!place) return undefined
  const [first, last] = side === 'start' ? [place[0] + by, place[1]] : [place[0], place[1] + by]
  return first <= last ? rangeOf(tokens, first, last) : undefined
}

/** Two spans of one type, the second beginning with the token; undefined where the token begins the span or lies outside. */
export function split(spans: readonly MarkedSpan[], span: MarkedSpan, tokens: readonly Range[], token: number): MarkedSpan[] | undefined {
  const place = tokensOf(tokens, span)
  const before = tokens[token - 1]
  const at = tokens[token]
  if (!place || !before || !at || token <= place[0] || token > place[1]) return undefined
  return ordered([...without(spans, span), { ...span, end: before.end }, { ...span, start: at.start }])
}

/** One span from this one and the next after it, with this one's type; undefined where none follows. */
export function join(spans: readonly MarkedSpan[], span: MarkedSpan, overlap: Overlap): MarkedSpan[] | undefined {
  const next = ordered(spans).find((s) => s.start >= span.end)
  if (!next) return undefined
  return mark(without(without(spans, span), next), { start: span.start, end: next.end }, span.type, overlap)
}

export function same(a: readonly MarkedSpan[], b: readonly MarkedSpan[]): boolean {
  const text = (spans: readonly MarkedSpan[]) => ordered(spans).map((s) => `${s.start}-${s.end}-${s.type}`).join()
  return text(a) === text(b)
}

/** Code points that the tokens from `first` to `last`, both included, cover. */
export function rangeOf(tokens: readonly Range[], first: number, last: number): Range | undefined {
  const from = tokens[Math.min(first, last)]
  const to = tokens[Math.max(first, last)]
  return from && to ? { start: from.start, end: to.end } : undefined
}

/** First and last token that a range touches. */
export function tokensOf(tokens: readonly Range[], range: Range): [number, number] | undefined {
  const first = tokens.findIndex((token) => overlaps(token, range))
  const last = tokens.findLastIndex((token) => overlaps(token, range))
  return first < 0 ? undefined : [first, last]
}

/** The next place after `from` where gold and evidence differ, going round at the end. */
export function nextGap<T extends Range>(differing: readonly T[], from: number): T | undefined {
  const all = ordered(differing)
  return all.find((span) => span.start > from) ?? all[0]
}

/** The next span after `from`, or before it; undefined beyond the last. */
export function neighbour<T extends Range>(spans: readonly T[], from: number, by: 1 | -1): T | undefined {
  const all = ordered(spans)
  return by > 0 ? all.find((s) => s.start > from) : all.findLast((s) => s.start < from)
}

/** The next token from `at` on that begins with a letter or figure, going either way; else the last in that direction. */
export function nextWord(words: readonly string[], at: number, by: 1 | -1): number {
  for (let i = at + by; i >= 0 && i < words.length; i += by) if (/^[\p{L}\p{N}]/u.test(words[i] ?? '')) return i
  return by > 0 ? words.length - 1 : 0
}

const isNameLike = (word: string) => /^[\p{Lu}\p{Lt}\p{N}]/u.test(word)
const isFigure = (word: string) => /^\p{N}/u.test(word)
// They join what stands on both sides of them into one name.
const JOINS = new Set(['&', "'s", '’s', 'of'])

/**
 * Runs of words that look like names or figures, as first and last token: where one would look next for something to mark.
 * The first word of a sentence has its capital from there, so none begins with it. A figure takes a unit of one letter along.
 */
export function nameRuns(words: readonly string[]): [number, number][] {
  const runs: [number, number][] = []
  const at = (i: number) => words[i] ?? ''
  for (let i = 1; i < words.length; i++) {
    if (!isNameLike(at(i))) continue
    let end = i
    const figure = isFigure(at(i))
    for (;;) {
      const next = at(end + 1)
      if (isNameLike(next) && (!figure || isFigure(next))) end += 1
      else if (JOINS.has(next) && isNameLike(at(end + 2))) end += 1
      else break
    }
    if (figure && end === i && /^\p{Ll}$/u.test(at(end + 1))) end += 1
    runs.push([i, end])
    i = end
  }
  return runs
}

/** The run after the selected tokens, or before them; past the last one the next word. */
export function nextRun(words: readonly string[], first: number, last: number, by: 1 | -1): [number, number] {
  const runs = nameRuns(words)
  const found = by > 0 ? runs.find(([from]) => from > last) : runs.findLast(([, to]) => to < first)
  const word = nextWord(words, by > 0 ? last : first, by)
  return found ?? [word, word]
}
