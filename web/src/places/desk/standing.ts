import type { AnnotationShown } from '../../api/schema'
import type { MarkedSpan } from './edits'
import { lastPending, type PendingAct } from './outbox'
import type { Stood } from './wishes'

/** What stands in a sentence, acts on their way included. */
export interface Standing {
  state: string
  spans: MarkedSpan[]
  turnedDown: MarkedSpan[]
  question: string
  answer: string
}

const NOTHING: Stood = { state: 'untouched', spans: [], turned_down: [], question: '', answer: '' }

/** The last act on its way says how a sentence stands; without one, what is known from the server. */
export function standingOf(pending: readonly PendingAct[], project: string, sentence: number, known: AnnotationShown | undefined): Standing {
  const { state, spans, turned_down: turnedDown, question, answer } = lastPending(pending, project, sentence)?.wish ?? known ?? NOTHING
  return { state, spans, turnedDown, question, answer }
}

/** As acts say it. */
export function stoodOf({ state, spans, turnedDown, question, answer }: Standing): Stood {
  return { state, spans: spans.map(plain), turned_down: turnedDown.map(plain), question, answer }
}

/** A span without what its source says of it. */
export const plain = ({ start, end, type }: MarkedSpan): MarkedSpan => ({ start, end, type })

/** The state of an unsigned sentence: what was turned down is work too. */
export const begun = (...work: readonly (readonly MarkedSpan[])[]) => (work.some((spans) => spans.length > 0) ? 'draft' : 'untouched')
