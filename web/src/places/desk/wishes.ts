import type { AnswerWish, MarksWish, QuestionWish, SigningWish, SpanWish, VerdictWish, WithdrawalWish } from '../../api/schema'

/** What stands in a sentence, as acts say it. */
export interface Stood {
  state: string
  spans: SpanWish[]
  turned_down: SpanWish[]
  question: string
  answer: string
}

/** An act as the page keeps it: what the sentence will be after it, so that it can be drawn before the server has it. */
export interface ActOnItsWay extends Stood {
  kind: string
  /** The version of the sentence that it was made on. */
  version: number
  token: string
  verdicts: VerdictWish[]
}

type Wish = MarksWish | SigningWish | WithdrawalWish | QuestionWish | AnswerWish

const isSigning = (kind: string) => kind === 'sign' || kind === 'sign as empty'

/** The act as the server takes it: each kind carries only what it may change. */
export function wishOf({ kind, version, token, spans, turned_down, question, answer, verdicts }: ActOnItsWay): Wish {
  if (kind === 'ask') return { kind, version, token, question }
  if (kind === 'answer') return { kind, version, token, answer }
  if (kind === 'unsign') return { kind, version, token }
  if (kind === 'sign' || kind === 'sign as empty') return { kind, version, token, spans, turned_down, verdicts }
  return { kind: kind as MarksWish['kind'], version, token, spans, turned_down, verdicts }
}

/** What an act makes of a sentence that is another than the one it was made on. */
export function laidOn(base: Stood, { kind, spans, turned_down, question, answer }: Pick<ActOnItsWay, 'kind'> & Stood): Stood {
  if (kind === 'ask') return { ...base, question, answer: '' }
  if (kind === 'answer') return { ...base, answer }
  if (kind === 'unsign') return { ...base, state: base.spans.length + base.turned_down.length > 0 ? 'draft' : 'untouched' }
  return { ...base, state: isSigning(kind) ? 'signed' : 'draft', spans, turned_down }
}
