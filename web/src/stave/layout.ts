import type { Lane, Range, StaveSpan } from './span'
import { type Measure, placeOf, type PlacedToken } from './setting'

/** A stretch of a line; at each of its sides which end of the range lies there, if one does. */
export interface Stretch {
  x: number
  width: number
  left: 'start' | 'end' | null
  right: 'start' | 'end' | null
}

/** A part of a span that lies in one system. */
export interface PlacedBar extends Stretch {
  span: StaveSpan
  /** Which of its lane's stacked rows. */
  row: number
}

export interface PlacedLane {
  lane: Lane
  rows: number
  bars: PlacedBar[]
}

/** One line of text with its lanes. */
export interface System {
  tokens: PlacedToken[]
  lanes: PlacedLane[]
  /** Places where sources differ: run through all lanes. */
  columns: Stretch[]
  /** Where its text ends to the right. */
  width: number
}

/** Rows for spans of one lane so that none covers another: the longest first, each in the first free row. */
export function stack(spans: readonly StaveSpan[]): Map<StaveSpan, number> {
  const order = [...spans].sort((a, b) => b.end - b.start - (a.end - a.start) || a.start - b.start)
  const rows: StaveSpan[][] = []
  const placed = new Map<StaveSpan, number>()
  for (const span of order) {
    let row = rows.findIndex((held) => held.every((other) => span.end <= other.start || other.end <= span.start))
    if (row < 0) row = rows.push([]) - 1
    rows[row]?.push(span)
    placed.set(span, row)
  }
  return placed
}

/**
 * A range as it is drawn on a line, from the left: one stretch, or several where letters that read backwards stand between.
 * Bounds within a token lie within it.
 */
export function stretches(tokens: readonly PlacedToken[], { start, end }: Range, measure: Measure): Stretch[] {
  const drawn = tokens.some((t) => t.back) ? [...tokens].sort((one, other) => one.x - other.x) : tokens
  const found: Stretch[] = []
  let joins = false
  for (const token of drawn) {
    const meets = token.start < end && start < token.end
    if (!meets) {
      // A word in between parts a range that is drawn in another order than it reads.
      joins = false
      continue
    }
    const begins = token.start <= start && start < token.end
    const ends = token.start < end && end <= token.end
    const bound = (offset: number) => (token.start < offset && offset < token.end ? (placeOf([token], offset, measure) ?? token.x) : null)
    const [first, last] = token.back ? [ends && ('end' as const), begins && ('start' as const)] : [begins && ('start' as const), ends && ('end' as const)]
    const from = bound(token.back ? end : start) ?? token.x
    const to = bound(token.back ? start : end) ?? token.x + token.width
    const open = joins ? found.at(-1) : undefined
    if (open) {
      open.width = to - open.x
      open.right = last || null
    } else found.push({ x: from, width: to - from, left: first || null, right: last || null })
    joins = true
  }
  return found
}

/** One column for each range that differs: two types on the same words are one difference to the eye. */
function columnsOf(line: readonly PlacedToken[], differing: readonly Range[], measure: Measure): Stretch[] {
  const ranges = new Map(differing.map((range) => [`${range.start}-${range.end}`, range]))
  return [...ranges.values()].flatMap((range) => stretches(line, range, measure))
}

/** Put lanes beneath text that is set already. A lane that was placed under the same lines before is the same object again. */
export function place(lines: readonly PlacedToken[][], lanes: readonly Lane[], differing: readonly Range[], measure: Measure): System[] {
  const placed = lanes.map((lane) => placedUnder(lines, lane, measure))
  return lines.map((line, i) => ({
    tokens: line,
    width: line.reduce((most, t) => Math.max(most, t.x + t.width), 0),
    lanes: placed.flatMap((systems) => systems[i] ?? []),
    columns: columnsOf(line, differing, measure),
  }))
}

const kept = new WeakMap<readonly PlacedToken[][], WeakMap<Lane, PlacedLane[]>>()

function placedUnder(lines: readonly PlacedToken[][], lane: Lane, measure: Measure): PlacedLane[] {
  const known = kept.get(lines) ?? new WeakMap<Lane, PlacedLane[]>()
  kept.set(lines, known)
  const found = known.get(lane) ?? placeLane(lines, lane, measure)
  known.set(lane, found)
  return found
}

/** A lane's part of each line. */
function placeLane(lines: readonly PlacedToken[][], lane: Lane, measure: Measure): PlacedLane[] {
  const rows = stack(lane.spans)
  return lines.map((line) => {
    const from = line[0]?.start ?? 0
    const to = line.at(-1)?.end ?? 0
    const bars = lane.spans.flatMap((span): PlacedBar[] => {
      if (span.end <= from || to <= span.start) return []
      return stretches(line, span, measure).map((stretch) => ({ ...stretch, span, row: rows.get(span) ?? 0 }))
    })
    return { lane, bars, rows: bars.reduce((most, bar) => Math.max(most, bar.row + 1), 1) }
  })
}
