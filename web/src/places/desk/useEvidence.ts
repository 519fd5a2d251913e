import { useMemo } from 'react'

import type { DeskSentenceShown, EvidenceShown } from '../../api/schema'
import { goldLane, type Lane, otherLane, staveSpans, type StaveSpan } from '../../stave/span'
import { type MarkedSpan, sameSpan } from './edits'
import { sightOf } from './evidence'
import { LANES, TOGETHER } from './lanes'
import { useDeskSettings } from './settings'
import type { Standing } from './standing'

const placeOf = ({ start, end, type }: MarkedSpan) => `${start}-${end}-${type}`

/** Evidence as it is drawn: struck out where an annotator has turned it down, dimmed where others overrule it. */
function drawn(held: readonly EvidenceShown[], isDown: (span: MarkedSpan) => boolean): readonly StaveSpan[] {
  return staveSpans(held).map((span, i): StaveSpan => {
    if (isDown(span)) return { ...span, change: 'removed', why: 'turned down' }
    const { overruled, why } = held[i] as EvidenceShown
    return overruled ? { ...span, change: 'beaten', why: `${why}; ${overruled}` } : span
  })
}

/** Lanes of the open sentence, and where they differ. */
export function useEvidence(sentence: DeskSentenceShown | undefined, { spans, turnedDown }: Standing) {
  const hidden = useDeskSettings((settings) => settings.hidden)
  // By what it says, not by which act said it: most acts leave it alone.
  const said = turnedDown.map(placeOf).join()
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const down = useMemo(() => turnedDown, [said])
  const sight = useMemo(() => sightOf(sentence, hidden, { spans, turnedDown: down }), [sentence, hidden, spans, down])
  const found = useMemo(() => {
    const isDown = (span: MarkedSpan) => down.some((other) => sameSpan(other, span))
    const lanes = LANES.flatMap(([name, label]): Lane[] => {
      const held = sentence?.lanes[name]
      return held && !hidden.includes(name) ? [{ id: name, label, look: 'dimension', spans: drawn(held, isDown) }] : []
    })
    if (hidden.includes(TOGETHER[0]) || !sentence || sentence.quiet) return lanes
    return [...lanes, otherLane(...TOGETHER, sightOf(sentence, hidden, { spans: [], turnedDown: down }).resolved)]
  }, [sentence, hidden, down])
  const lanes = useMemo((): Lane[] => [goldLane(spans, { editable: true }), ...found], [spans, found])
  return { ...sight, lanes }
}
