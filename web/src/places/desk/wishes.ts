import type { AnswerWish, MarksWish, QuestionWish, SigningWish, SpanWish, VerdictWish, WithdrawalWish } from '../../api/schema'

/** An act as the page keeps it: what the sentence will be after it, so that it can be drawn before the server has it. */
export interface ActOnItsWay {
  kind: string
  /** The version of the sentence that it was made on. */
  version: number
  token: string
  state: string
  spans: SpanWish[]
  turned_down: SpanWish[]
  question: string
  answer: string
  verdicts: VerdictWish[]
}

type Wish = MarksWish | SigningWish | WithdrawalWish | QuestionWish | AnswerWish

/** The act as the server takes it: each kind carries only what it may change. */
export function wishOf({ kind, version, token, spans, turned_down, question, answer, verdicts }: ActOnItsWay): Wish {
  if (kind === 'ask') return { kind, version, token, question }
  if (kind === 'answer') return { kind, version, token, answer }
  if (kind === 'unsign') return { kind, version, token }
  if (kind === 'sign' || kind === 'sign as empty') return { kind, version, token, spans, turned_down, verdicts }
  return { kind: kind as MarksWish['kind'], version, token, spans, turned_down, verdicts }
}
