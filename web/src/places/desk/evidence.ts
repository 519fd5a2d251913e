import type { DeskSentenceShown, EvidenceShown, SpanShown } from '../../api/schema'
import { differences } from '../../stave/span'
import { type MarkedSpan, overlaps, sameSpan } from './edits'
import { LANES } from './lanes'
import type { Standing } from './standing'

/** Evidence with the name of the lane that it stands in. */
export type Evidence = EvidenceShown & { lane: string }

/** A sentence's evidence beside what stands in it: everything that acts and the cursor go by. */
export interface Sight {
  /** In the lanes that are shown: what is hidden is as good as not there. */
  evidence: readonly Evidence[]
  /** What the sources come to, as far as one of those that are shown says it and nobody has turned it down. */
  resolved: readonly SpanShown[]
  /** Where gold and that differ. */
  differing: readonly MarkedSpan[]
  isDown: (span: MarkedSpan) => boolean
  /** How likely a span must be to be taken at once; null where the pipeline does not weigh. */
  sure: number | null
}

export function evidenceOf(sentence: DeskSentenceShown | undefined, hidden: readonly string[]): Evidence[] {
  return LANES.filter(([name]) => !hidden.includes(name)).flatMap(([name]) =>
    (sentence?.lanes[name] ?? []).map((span): Evidence => ({ ...span, lane: name })),
  )
}

export function sightOf(sentence: DeskSentenceShown | undefined, hidden: readonly string[], { spans, turnedDown }: Pick<Standing, 'spans' | 'turnedDown'>, sure = 0): Sight {
  const isDown = (span: MarkedSpan) => turnedDown.some((other) => sameSpan(other, span))
  const evidence = evidenceOf(sentence, hidden)
  const said = (span: MarkedSpan) => evidence.some((other) => sameSpan(other, span))
  const resolved = (sentence?.resolved ?? []).filter((span) => said(span) && !isDown(span))
  const differing = sentence && !sentence.quiet && evidence.length > 0 ? differences(spans, resolved) : []
  return { evidence, resolved, differing, isDown, sure: sentence?.weighs_from == null ? null : sure }
}

/** Evidence at the cursor. */
export const evidenceAt = ({ evidence }: Pick<Sight, 'evidence'>, range: { start: number; end: number } | undefined): readonly Evidence[] =>
  range ? evidence.filter((span) => overlaps(span, range)) : []

/** Of several at one place what the sources come to, then what nobody has turned down. */
export function bestOf(here: readonly Evidence[], { resolved, isDown }: Pick<Sight, 'resolved' | 'isDown'>): Evidence | undefined {
  return here.find((span) => resolved.some((other) => sameSpan(other, span))) ?? here.find((span) => !isDown(span)) ?? here[0]
}

/**
 * Where the pipeline weighs, what of its answer is as likely as somebody wants it, and gold does not say otherwise. Else
 * evidence that nobody whose word counts speaks against: what the sources come to, where a maker with a say says it, each
 * source that says anything there says that too unless it is overruled, nobody has turned it down, and gold does not say
 * otherwise.
 */
export function undisputed({ evidence, resolved, sure }: Pick<Sight, 'evidence' | 'resolved' | 'sure'>, { spans, turnedDown }: Pick<Standing, 'spans' | 'turnedDown'>): SpanShown[] {
  // What is weighed has heard everybody already.
  if (sure !== null) return resolved.filter((span) => (span.probability ?? 0) >= sure && !spans.some((other) => overlaps(other, span)))
  const counts = (span: Evidence) => span.overruled === '' && !turnedDown.some((other) => sameSpan(other, span))
  const lanes = LANES.map(([name]) => evidence.filter((span) => span.lane === name && counts(span)))
  return resolved.filter((span) => {
    if (spans.some((other) => overlaps(other, span))) return false
    const saying = lanes.map((lane) => lane.filter((other) => overlaps(other, span)))
    const isSame = (other: Evidence) => sameSpan(other, span)
    return saying.some((there) => there.some((other) => isSame(other) && other.doubt === '')) && saying.every((there) => there.length === 0 || there.some(isSame))
  })
}
