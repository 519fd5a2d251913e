import { ProblemError } from '../../api/client'
import type { PendingAct } from './outbox'
import { type ActOnItsWay, laidOn, type Stood } from './wishes'

/** What somebody else made of a sentence meanwhile. */
export interface Theirs extends Stood {
  version: number
  by: string
}

/** Acts on one sentence, in their order, that were made on what is no longer there. */
export interface Conflict {
  acts: PendingAct[]
  theirs: Theirs
}

type Logged = [start: number, end: number, type: string]

/** As acts are logged: what is empty is left out. */
interface Told {
  state: string
  version: number
  by: string
  spans: Logged[]
  turned_down?: Logged[]
  question?: string
  answer?: string
}

/** What the server says is there instead, if that is why it refuses. */
export function theirsOf(error: unknown): Theirs | undefined {
  if (!(error instanceof ProblemError) || error.kind !== 'urn:urdaten:stale-write') return undefined
  const { state, version, by, spans, turned_down, question, answer } = error.more['theirs'] as Told
  const listed = (logged: Logged[] = []) => logged.map(([start, end, type]) => ({ start, end, type }))
  return { state, version, by, spans: listed(spans), turned_down: listed(turned_down), question: question ?? '', answer: answer ?? '' }
}

/** An undo or redo, made on top of something else, is an act like any other. */
const kindOf = ({ travel, wish: { kind, state, spans } }: PendingAct) =>
  !travel ? kind : state !== 'signed' ? 'change' : spans.length > 0 ? 'sign' : 'sign as empty'

/** My acts again, one after the other, on top of what is there now; each brings along only what it was about. */
export function onTop({ acts, theirs }: Conflict): PendingAct[] {
  let { state, spans, turned_down, question, answer }: Stood = theirs
  return acts.map((act, i): PendingAct => {
    const kind = kindOf(act)
    ;({ state, spans, turned_down, question, answer } = laidOn({ state, spans, turned_down, question, answer }, { ...act.wish, kind }))
    const { project, account, sentence, turn } = act
    const wish: ActOnItsWay = { kind, state, spans, turned_down, question, answer, verdicts: act.wish.verdicts, version: theirs.version + i, token: crypto.randomUUID() }
    return { project, account, sentence, turn, wish }
  })
}
