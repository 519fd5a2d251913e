import { CodePoints } from '../api/offsets'

/** Half-open code points in the body. */
export interface Range {
  start: number
  end: number
}

/** A typed range, with what its source says of it. */
export interface StaveSpan {
  start: number
  end: number
  type: string
  probability?: number | null
  source?: string
  why?: string
  /** Evidence that an annotator has turned down: drawn struck out. */
  down?: boolean
}

export interface Lane {
  name: string
  label: string
  /** Gold has its own ground and solid bars; evidence has dimension lines. */
  kind: 'gold' | 'evidence'
  spans: readonly StaveSpan[]
}

export interface PlacedToken {
  index: number
  start: number
  end: number
  words: string
  x: number
  width: number
}

/** The part of a span that lies in one system. */
export interface PlacedBar {
  span: StaveSpan
  x: number
  width: number
  /** Which of its lane's stacked rows. */
  row: number
  /** Does the span go on in the system before or after? Then there is no tick at that end. */
  fromBefore: boolean
  toAfter: boolean
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
  /** Places where sources differ: runs through all lanes. */
  columns: { x: number; width: number }[]
  width: number
}

/** Width of words in pixels, as the stave's text is set. */
export type Measure = (words: string) => number

/** Set the tokens as natural text into lines no wider than `width`. */
export function setText(
  words: string,
  start: number,
  tokens: readonly Range[],
  width: number,
  measure: Measure,
): PlacedToken[][] {
  const points = new CodePoints(words, start)
  const lines: PlacedToken[][] = []
  let line: PlacedToken[] = []
  let x = 0
  let before = start
  tokens.forEach(({ start: from, end: to }, index) => {
    const text = points.slice(from, to)
    const gap = points.slice(before, from)
    const room = line.length > 0 && gap !== '' ? measure(/\S/.test(gap) ? gap : gap.replace(/\s/g, ' ')) : 0
    const own = measure(text)
    // A line breaks at white space only; a token wider than the line stands alone and runs over.
    if (line.length > 0 && gap !== '' && x + room + own > width) {
      lines.push(line)
      line = []
      x = 0
    } else {
      x += room
    }
    line.push({ index, start: from, end: to, words: text, x, width: own })
    x += own
    before = to
  })
  if (line.length > 0) lines.push(line)
  return lines
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

function extent(tokens: readonly PlacedToken[], start: number, end: number): { x: number; width: number } | null {
  const meets = (t: PlacedToken) => t.start < end && start < t.end
  const first = tokens.find(meets)
  const last = tokens.findLast(meets)
  if (!first || !last) return null
  return { x: first.x, width: last.x + last.width - first.x }
}

/** Where a code point of the body begins on a line, in pixels: within its token by the width of what stands before it. */
export function placeOf(tokens: readonly PlacedToken[], offset: number, measure: Measure): number | null {
  const token = tokens.find((t) => t.start <= offset && offset <= t.end)
  return token ? token.x + measure(new CodePoints(token.words, token.start).slice(token.start, offset)) : null
}

/** The code point bound nearest to a place within a token, `x` in pixels from the token's beginning. */
export function boundAt(token: { start: number; words: string }, x: number, measure: Measure): number {
  const points = new CodePoints(token.words, token.start)
  let nearest = token.start
  let least = Number.POSITIVE_INFINITY
  for (let bound = token.start; bound <= points.end; bound++) {
    const away = Math.abs(measure(points.slice(token.start, bound)) - x)
    if (away < least) [nearest, least] = [bound, away]
  }
  return nearest
}

/** The token of a line that is nearest to a place on it. */
export function tokenNear(tokens: readonly PlacedToken[], x: number): PlacedToken | undefined {
  return tokens.find((t) => x < t.x + t.width) ?? tokens.at(-1)
}

/** One column for each range that differs: two types on the same words are one difference to the eye. */
function columnsOf(line: readonly PlacedToken[], differing: readonly StaveSpan[]): System['columns'] {
  const ranges = new Map(differing.map((span) => [`${span.start}-${span.end}`, span]))
  return [...ranges.values()].flatMap((span) => extent(line, span.start, span.end) ?? [])
}

/** Put lanes beneath text that is set already. A lane that was placed under the same lines before is the same object again. */
export function place(lines: readonly PlacedToken[][], lanes: readonly Lane[], differing: readonly StaveSpan[]): System[] {
  const placed = lanes.map((lane) => placedUnder(lines, lane))
  return lines.map((line, i) => ({
    tokens: line,
    width: line.reduce((most, t) => Math.max(most, t.x + t.width), 0),
    lanes: placed.flatMap((systems) => systems[i] ?? []),
    columns: columnsOf(line, differing),
  }))
}

const kept = new WeakMap<readonly PlacedToken[][], WeakMap<Lane, PlacedLane[]>>()

function placedUnder(lines: readonly PlacedToken[][], lane: Lane): PlacedLane[] {
  const known = kept.get(lines) ?? new WeakMap<Lane, PlacedLane[]>()
  kept.set(lines, known)
  const found = known.get(lane) ?? placeLane(lines, lane)
  known.set(lane, found)
  return found
}

/** A lane's part of each line. */
function placeLane(lines: readonly PlacedToken[][], lane: Lane): PlacedLane[] {
  const rows = stack(lane.spans)
  return lines.map((line) => {
    const from = line[0]?.start ?? 0
    const to = line.at(-1)?.end ?? 0
    const bars = lane.spans.flatMap((span): PlacedBar[] => {
      if (span.end <= from || to <= span.start) return []
      const at = extent(line, span.start, span.end)
      return at ? [{ span, ...at, row: rows.get(span) ?? 0, fromBefore: span.start < from, toAfter: span.end > to }] : []
    })
    return { lane, bars, rows: bars.reduce((most, bar) => Math.max(most, bar.row + 1), 1) }
  })
}

export const keyOf = (span: StaveSpan) => `${span.start}-${span.end}-${span.type}`

/** Spans that stand in one set and not in the other: where two answers differ. */
export function differences(one: readonly StaveSpan[], other: readonly StaveSpan[]): StaveSpan[] {
  const inOne = new Set(one.map(keyOf))
  const inOther = new Set(other.map(keyOf))
  return [...one.filter((s) => !inOther.has(keyOf(s))), ...other.filter((s) => !inOne.has(keyOf(s)))]
}
