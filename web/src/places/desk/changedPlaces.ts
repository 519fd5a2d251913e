import type { SpanShown } from '../../api/schema'

/** Bounds at which a sentence would be changed. */
export interface Place {
  start: number
  end: number
}

export const keyOf = ({ start, end }: Place): string => `${start}-${end}`

/** Where spans as they are and as they would be differ, each place once, as they stand. */
export function changedPlaces(now: readonly SpanShown[], then: readonly SpanShown[]): Place[] {
  const typesAt = (spans: readonly SpanShown[], at: string) =>
    spans.filter((span) => keyOf(span) === at).map((span) => span.type).sort().join()
  const all = new Map([...now, ...then].map(({ start, end }) => [keyOf({ start, end }), { start, end }]))
  return [...all.values()]
    .filter((place) => typesAt(now, keyOf(place)) !== typesAt(then, keyOf(place)))
    .sort((a, b) => a.start - b.start || a.end - b.end)
}

/** The spans that there would be if places with these keys were left as they are. */
export function withLeftOut(now: readonly SpanShown[], then: readonly SpanShown[], left: ReadonlySet<string>): SpanShown[] {
  const isLeft = (span: SpanShown) => left.has(keyOf(span))
  return [...then.filter((span) => !isLeft(span)), ...now.filter(isLeft)].sort((a, b) => a.start - b.start || a.end - b.end)
}
