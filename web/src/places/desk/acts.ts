import { join, mark, type MarkedSpan, nudged, type Overlap, type Range, rebound, removeAt, retype, same, sameSpan, spanAt, split, without } from './edits'
import type { Evidence } from './evidence'
import { begun, plain, type Standing } from './standing'
import type { ActOnItsWay } from './wishes'

type Verdicts = ActOnItsWay['verdicts']

/** What an act makes of a sentence. */
export interface Change {
  kind: string
  after: Standing
  verdicts: Verdicts
}

/** Words for the person at the keyboard: why nothing is done. */
export type Refusal = string

/** An act is told what stands, so that one can follow another; undefined where it changes nothing and nothing is to be said. */
export type Act = (standing: Standing) => Change | Refusal | undefined

/**
 * Acts of one key, each on what the one before it leaves: one change, of the last one's kind, that is undone as one. The
 * first that refuses is what is said, and nothing is changed.
 */
export const inTurn =
  (...acts: readonly Act[]): Act =>
  (standing) => {
    let made: Change | undefined
    for (const act of acts) {
      const next = act(made?.after ?? standing)
      if (typeof next === 'string') return next
      if (next) made = { ...next, verdicts: [...(made?.verdicts ?? []), ...next.verdicts] }
    }
    return made
  }

/** Other spans: what was signed is begun then, and what stays the same is no act. */
function marks(kind: string, standing: Standing, spans: MarkedSpan[] | undefined): Change | undefined {
  if (!spans || same(spans, standing.spans)) return undefined
  return { kind, after: { ...standing, state: 'draft', spans }, verdicts: [] }
}

/** What is selected, and whether it is the cursor alone: then a span is meant as a whole, with a selection its words. */
export interface Place {
  range: Range
  isCursor: boolean
}

const NO_SPAN = 'There is no span under the cursor.'
const holdsMore = (span: Range, range: Range) => span.start <= range.start && range.end <= span.end && span.end - span.start > range.end - range.start

export const markAs =
  ({ range, isCursor }: Place, type: string, overlap: Overlap): Act =>
  (standing) => {
    const under = spanAt(standing.spans, range)
    // Where spans may lie within others, a word under the cursor is marked within.
    const whole = overlap === 'apart' && isCursor && under && holdsMore(under, range)
    const spans = whole ? retype(standing.spans, under, type) : mark(standing.spans, range, type, overlap)
    return marks(whole ? 'change' : 'mark', standing, spans)
  }

export const remove =
  ({ range, isCursor }: Place): Act =>
  (standing) => {
    const under = spanAt(standing.spans, range)
    return marks('remove', standing, isCursor && under ? without(standing.spans, under) : removeAt(standing.spans, range)) ?? NO_SPAN
  }

/** A span with other bounds; `target` is undefined where it can go no further. */
export const setBounds =
  (span: MarkedSpan, target: Range | undefined, overlap: Overlap): Act =>
  (standing) =>
    target ? marks('change', standing, rebound(standing.spans, span, target, overlap)) : 'The span can go no further that way.'

export const splitAt =
  ({ range }: Place, tokens: readonly Range[], token: number): Act =>
  (standing) => {
    const under = spanAt(standing.spans, range)
    return marks('change', standing, under && split(standing.spans, under, tokens, token)) ?? 'A span is split before the word under the cursor; it has to be one of its later words.'
  }

export const joinNext =
  ({ range }: Place, overlap: Overlap): Act =>
  (standing) => {
    const under = spanAt(standing.spans, range)
    return marks('change', standing, under && join(standing.spans, under, overlap)) ?? 'There is no span after the one under the cursor to join it with.'
  }

/** The bounds that the span under the cursor has with one of them moved by tokens; a refusal without a span. */
export function nudgedAt(standing: Standing, { range }: Place, tokens: readonly Range[], side: 'start' | 'end', by: number): { span: MarkedSpan; target: Range | undefined } | Refusal {
  const span = spanAt(standing.spans, range)
  return span ? { span, target: nudged(tokens, span, side, by) } : NO_SPAN
}

const verdictsOn = (spans: readonly MarkedSpan[], all: readonly Evidence[], taken: boolean): Verdicts =>
  all.filter((one) => spans.some((span) => sameSpan(one, span))).map((one) => ({ ...plain(one), source: one.lane, maker: one.maker, taken }))

/** Evidence goes into gold, logged with every source that says it. */
export const take =
  (wanted: readonly MarkedSpan[], all: readonly Evidence[], overlap: Overlap): Act =>
  (standing) => {
    const spans = wanted.reduce((held, span) => mark(held, span, span.type, overlap), standing.spans)
    const made = marks('take', standing, spans)
    if (!made) return 'That stands in gold already.'
    const turnedDown = standing.turnedDown.filter((span) => !wanted.some((taken) => sameSpan(span, taken)))
    return { ...made, after: { ...made.after, turnedDown }, verdicts: verdictsOn(wanted, all, true) }
  }

/** Evidence is turned down, and is not offered here again; a second time takes that back. */
export const turnDown =
  (span: MarkedSpan, all: readonly Evidence[]): Act =>
  (standing) => {
    const { state, spans, turnedDown } = standing
    if (turnedDown.some((other) => sameSpan(other, span)))
      return { kind: 'offer again', after: { ...standing, turnedDown: without(turnedDown, span) }, verdicts: [] }
    if (spans.some((other) => sameSpan(other, span))) return 'That stands in gold; remove it there first.'
    const after = { ...standing, state: state === 'untouched' ? 'draft' : state, turnedDown: [...turnedDown, span] }
    return { kind: 'turn down', after, verdicts: verdictsOn([span], all, false) }
  }

export const ask =
  (question: string): Act =>
  (standing) => ({ kind: 'ask', after: { ...standing, question, answer: '' }, verdicts: [] })

export const answer =
  (words: string): Act =>
  (standing) => ({ kind: 'answer', after: { ...standing, answer: words }, verdicts: [] })

/** The sentence has been read, and its spans are all of it. */
export const sign: Act = (standing) => {
  const { state, spans, turnedDown } = standing
  if (state === 'signed') return undefined
  if (spans.length === 0) return 'Nothing is marked here. Ctrl and enter sign the sentence as empty.'
  const kept = turnedDown.filter((span) => !spans.some((other) => sameSpan(span, other)))
  return { kind: 'sign', after: { ...standing, state: 'signed', turnedDown: kept }, verdicts: [] }
}

export const signEmpty: Act = (standing) => {
  if (standing.spans.length > 0) return 'This sentence has spans; remove them before you sign it as empty.'
  return standing.state === 'signed' ? undefined : { kind: 'sign as empty', after: { ...standing, state: 'signed' }, verdicts: [] }
}

export const withdraw: Act = (standing) =>
  standing.state === 'signed'
    ? { kind: 'unsign', after: { ...standing, state: begun(standing.spans, standing.turnedDown) }, verdicts: [] }
    : 'This sentence is not signed.'
