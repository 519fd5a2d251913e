import { useMemo } from 'react'

import type { DeskSentenceShown, SpanShown } from '../../api/schema'
import { differences, keyOf, type Lane } from '../../stave/layout'
import { type MarkedSpan, sameSpan } from './edits'
import { LANES, TOGETHER } from './lanes'
import { useDeskSettings } from './settings'
import type { Standing } from './useDesk'

/** Evidence with the name of the lane that it stands in. */
export type Evidence = SpanShown & { lane: string }

/** Evidence in the lanes that are shown: what is hidden is as good as not there. */
export function evidenceOf(sentence: DeskSentenceShown | undefined, hidden: readonly string[]): Evidence[] {
  return LANES.filter(([name]) => !hidden.includes(name)).flatMap(([name]) =>
    (sentence?.lanes[name] ?? []).map((span): Evidence => ({ ...span, lane: name })),
  )
}

/** What the sources come to, as far as one of those that are shown says it. */
export function resolvedOf(sentence: DeskSentenceShown | undefined, evidence: readonly Evidence[]): SpanShown[] {
  return (sentence?.resolved ?? []).filter((span) => evidence.some((other) => sameSpan(other, span)))
}

/** Lanes of the open sentence, and where they differ. */
export function useEvidence(sentence: DeskSentenceShown | undefined, { spans, turnedDown }: Standing) {
  const hidden = useDeskSettings((settings) => settings.hidden)
  const evidence = useMemo(() => evidenceOf(sentence, hidden), [sentence, hidden])
  // By what it says, not by which act said it: most acts leave it alone.
  const down = turnedDown.map(keyOf).join()
  const isDown = useMemo(() => {
    const keys = new Set(down.split(','))
    return (span: MarkedSpan) => keys.has(keyOf(span))
  }, [down])
  const resolved = useMemo(() => resolvedOf(sentence, evidence).filter((span) => !isDown(span)), [sentence, evidence, isDown])
  const found = useMemo(() => {
    const marked = (held: readonly SpanShown[]) => held.map((span) => (isDown(span) ? { ...span, down: true } : span))
    const lanes = LANES.flatMap(([name, label]): Lane[] => {
      const held = sentence?.lanes[name]
      return held && !hidden.includes(name) ? [{ name, label, kind: 'evidence', spans: marked(held) }] : []
    })
    const [name, label] = TOGETHER
    return hidden.includes(name) || !sentence || sentence.quiet ? lanes : [...lanes, { name, label, kind: 'evidence' as const, spans: resolved }]
  }, [sentence, hidden, isDown, resolved])
  const lanes = useMemo((): Lane[] => [{ name: 'gold', label: 'Gold', kind: 'gold', spans }, ...found], [spans, found])
  const differing = useMemo(() => (sentence && !sentence.quiet && evidence.length > 0 ? differences(spans, resolved) : []), [sentence, evidence, spans, resolved])
  return { evidence, resolved, lanes, differing, isDown }
}
