/** What marking and removing do to the spans of a sentence. Pure, so that they are easy to be sure of. */
export interface MarkedSpan {
  start: number
  end: number
  type: string
}

interface Range {
  start: number
  end: number
}

export function overlaps(a: Range, b: Range): boolean {
  return a.start < b.end && b.start < a.end
}

function ordered<T extends Range>(spans: readonly T[]): T[] {
  return [...spans].sort((a, b) => a.start - b.start || a.end - b.end)
}

/** A new span takes the place of what it overlaps. */
export function mark(spans: readonly MarkedSpan[], range: Range, type: string): MarkedSpan[] {
  return ordered([...spans.filter((s) => !overlaps(s, range)), { start: range.start, end: range.end, type }])
}

/** Every span that touches the range goes. */
export function removeAt(spans: readonly MarkedSpan[], range: Range): MarkedSpan[] {
  return spans.filter((s) => !overlaps(s, range))
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
