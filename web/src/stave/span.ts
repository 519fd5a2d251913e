/** Half-open code points in the body. */
export interface Range {
  start: number
  end: number
}

/** What became of a span from one lane to the next, or why it is not in the answer. */
export type SpanChange = 'added' | 'removed' | 'changed' | 'beaten'

/** A typed range in a lane. Its id is its own within the lane: equal spans of two makers stand apart. */
export interface StaveSpan extends Range {
  id: string
  type: string
  probability?: number | null | undefined
  change?: SpanChange | undefined
  /** What its source says of it. */
  why?: string | undefined
}

/** Solid bars, dimension lines with a tick at each end, or hollow bars for what is not, or no longer, there. */
export type Look = 'bar' | 'dimension' | 'ghost'

export interface Lane {
  id: string
  label: string
  look: Look
  /** On the gold ground. */
  ground?: boolean
  /** Bounds of its spans can be dragged. */
  editable?: boolean
  spans: readonly StaveSpan[]
}

interface Found extends Range {
  type: string
  probability?: number | null | undefined
  why?: string | undefined
  maker?: string | undefined
}

const placeOfSpan = ({ start, end, type }: Range & { type: string }) => `${start}-${end}-${type}`
const kept = new WeakMap<readonly Found[], readonly StaveSpan[]>()

/** Spans as the server has them, as a lane takes them; the same list gives the same objects again. */
export function staveSpans(found: readonly Found[]): readonly StaveSpan[] {
  const known = kept.get(found)
  if (known) return known
  const times = new Map<string, number>()
  const made = found.map((span): StaveSpan => {
    const place = placeOfSpan(span)
    const before = times.get(place) ?? 0
    times.set(place, before + 1)
    const { start, end, type, probability, why, maker } = span
    const said = [maker, why].filter(Boolean).length > 1 && !why?.includes(maker ?? '') ? `${maker}: ${why}` : why || maker
    return { id: before === 0 ? place : `${place}-${before + 1}`, start, end, type, probability, why: said }
  })
  kept.set(found, made)
  return made
}

/** The lane in which a person marks. */
export const goldLane = (found: readonly Found[], more: Partial<Lane> = {}): Lane => ({
  id: 'gold', label: 'Gold', look: 'bar', ground: true, spans: staveSpans(found), ...more,
})

/** A lane of what somebody or something else says. */
export const otherLane = (id: string, label: string, found: readonly Found[], more: Partial<Lane> = {}): Lane => ({
  id, label, look: 'dimension', spans: staveSpans(found), ...more,
})

interface Marked extends Range {
  type: string
}

/** Spans of the first that are, or with `missing` are not, in the other too. */
export function among<T extends Marked>(one: readonly T[], other: readonly Marked[], missing = false): T[] {
  const places = new Set(other.map(placeOfSpan))
  return one.filter((span) => places.has(placeOfSpan(span)) !== missing)
}

/** Spans that stand in one set and not in the other: where two answers differ. */
export function differences<T extends Marked, U extends Marked>(one: readonly T[], other: readonly U[]): (T | U)[] {
  return [...among(one, other, true), ...among(other, one, true)]
}

/** Both lanes with what became of each span between them: those that went, those that came, and those that got another type. */
export function compared(before: Lane, after: Lane): [Lane, Lane] {
  const at = (lane: Lane) => new Map(lane.spans.map((span) => [`${span.start}-${span.end}`, span.type]))
  const [was, is] = [at(before), at(after)]
  const mark = (lane: Lane, there: ReadonlyMap<string, string>, alone: SpanChange): Lane => ({
    ...lane,
    spans: lane.spans.map((span) => {
      const type = there.get(`${span.start}-${span.end}`)
      return type === span.type ? span : { ...span, change: type === undefined ? alone : 'changed' }
    }),
  })
  return [mark(before, is, 'removed'), mark(after, was, 'added')]
}
