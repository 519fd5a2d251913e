import { create } from 'zustand'

import { isPassing, messageOf, ProblemError } from '../../api/client'
import type { AnnotationShown } from '../../api/schema'
import { keepActs, keptActs } from './actStore'
import { forget, type Way } from './trail'
import type { ActOnItsWay } from './wishes'

/**
 * Acts on their way to the server. They show at once, are kept in the browser until the server has
 * them, and are sent in order; each carries a token, so that one sent twice is done once.
 */
export interface PendingAct {
  project: string
  account: number
  sentence: number
  wish: ActOnItsWay
  /** An earlier act, by its token, is undone or done again; `wish` is then what the sentence will be after it. */
  travel?: { way: Way; of: string }
  /** Its place among the account's acts. */
  turn: number
}

export interface Conflict {
  act: PendingAct
  theirs: Pick<ActOnItsWay, 'state' | 'version' | 'spans' | 'turned_down' | 'question' | 'answer'> & { by: string }
}

/** What the server made of an act. */
export interface Arrival {
  sentence: number
  annotation: AnnotationShown
  /** Was it left alone, because the sentence had been changed since? */
  left: boolean
}

export interface OutboxEnds {
  send: (act: PendingAct) => Promise<Arrival>
  /** The server has it; called before the act leaves the box. */
  arrived: (act: PendingAct, arrival: Arrival) => void
  /** The server refuses it for good: it and what was done on top of it in that sentence are set aside, and the rest goes on. */
  refused: (act: PendingAct, error: unknown) => void
}

/** Acts on one sentence that can never pass, and why. */
export interface Aside {
  project: string
  sentence: number
  kinds: string[]
  why: string
}

interface OutboxState {
  pending: PendingAct[]
  /** The server is out of reach and acts wait here. */
  holding: boolean
  conflict: Conflict | null
  aside: Aside[]
}

/** How often an act is sent again that the server fails on, before it counts as one that can never pass. */
export const MOST_FAILURES = 5
export const RETRY_MS = 1500
export const useOutbox = create<OutboxState>(() => ({ pending: [], holding: false, conflict: null, aside: [] }))

let owner = 0
let lastTurn = 0

function keep(pending: PendingAct[]): void {
  const before = useOutbox.getState().pending
  useOutbox.setState({ pending })
  const fresh = pending.filter((act) => !before.includes(act))
  const done = before.filter((act) => !pending.includes(act))
  // Without storage the acts live as long as the page; sending goes on all the same.
  keepActs(fresh, done).catch(() => undefined)
}

/** What a sentence will be once everything on its way has arrived. */
export function lastPending(pending: readonly PendingAct[], project: string, sentence: number): PendingAct | undefined {
  return pending.findLast((act) => act.project === project && act.sentence === sentence)
}

/** The version that the next act on a sentence has to name. */
export function nextVersion(pending: readonly PendingAct[], project: string, sentence: number, known: number): number {
  const last = lastPending(pending, project, sentence)
  return last ? last.wish.version + 1 : known
}

type Logged = [start: number, end: number, type: string]

/** As acts are logged: what is empty is left out. */
interface Theirs {
  state: string
  version: number
  by: string
  spans: Logged[]
  turned_down?: Logged[]
  question?: string
  answer?: string
}

function theirsOf(error: unknown): Conflict['theirs'] | undefined {
  if (!(error instanceof ProblemError) || error.kind !== 'urn:urdaten:stale-write') return undefined
  const { state, version, by, spans, turned_down, question, answer } = error.more['theirs'] as Theirs
  const listed = (logged: Logged[] = []) => logged.map(([start, end, type]) => ({ start, end, type }))
  return { state, version, by, spans: listed(spans), turned_down: listed(turned_down), question: question ?? '', answer: answer ?? '' }
}

let ends: OutboxEnds | null = null
let running: Promise<void> | null = null
let wanted = false

async function run(): Promise<void> {
  let failures = 0
  for (;;) {
    const { pending, conflict } = useOutbox.getState()
    const act = pending[0]
    if (!act || !ends || conflict) return
    try {
      ends.arrived(act, await ends.send(act))
      failures = 0
      useOutbox.setState({ holding: false })
      keep(useOutbox.getState().pending.filter((other) => other.wish.token !== act.wish.token))
    } catch (error) {
      const signedOut = error instanceof ProblemError && error.status === 401
      // One that the server itself fails on, again and again, must not hold up all that is behind it.
      if (error instanceof ProblemError && error.status === 500) failures += 1
      if ((isPassing(error) && failures < MOST_FAILURES) || signedOut) {
        useOutbox.setState({ holding: true })
        if (signedOut) return
        await new Promise((wake) => setTimeout(wake, RETRY_MS))
        continue
      }
      const theirs = theirsOf(error)
      // Later acts on this sentence were made on top of this one: the last of them is what is wanted.
      failures = 0
      const lost = useOutbox.getState().pending.filter((o) => o.sentence === act.sentence && o.project === act.project)
      const wanted = lost.at(-1) ?? act
      keep(useOutbox.getState().pending.filter((o) => o.sentence !== act.sentence || o.project !== act.project))
      if (theirs) {
        forget(act.project)
        useOutbox.setState({ conflict: { act: wanted, theirs } })
      } else {
        setAside([...useOutbox.getState().aside, { project: act.project, sentence: act.sentence, kinds: lost.map((o) => o.wish.kind), why: messageOf(error) }])
        ends.refused(act, error)
      }
    }
  }
}

const asideOf = (account: number) => `urdaten.aside.${account}`

function setAside(aside: Aside[]): void {
  useOutbox.setState({ aside })
  localStorage.setItem(asideOf(owner), JSON.stringify(aside))
}

/** What was set aside has been read. */
export function clearAside(): void {
  setAside([])
}

function keptAside(account: number): Aside[] {
  try {
    return JSON.parse(localStorage.getItem(asideOf(account)) ?? '[]') as Aside[]
  } catch {
    return []
  }
}

/** Send what waits; resolves when the box is empty or sending has to stop. */
export function flush(): Promise<void> {
  // An act that is put in while a run is just ending makes it run once more.
  wanted = true
  running ??= runWhileWanted()
  return running
}

async function runWhileWanted(): Promise<void> {
  try {
    while (wanted) {
      // What was left behind goes first.
      await reading
      wanted = false
      await run()
    }
  } finally {
    running = null
  }
}

export function put(act: Omit<PendingAct, 'turn'>): void {
  // Rising also from page to page.
  lastTurn = Math.max(lastTurn + 1, Date.now())
  keep([...useOutbox.getState().pending, { ...act, turn: lastTurn }])
  void flush()
}

let reading: Promise<void> = Promise.resolve()

/** Connect the box with the server, and take up what an earlier page of this account left behind. */
export function open(account: number, newEnds: OutboxEnds): void {
  ends = newEnds
  if (owner !== account) {
    owner = account
    forget()
    useOutbox.setState({ pending: [], holding: false, conflict: null, aside: keptAside(account) })
    reading = keptActs(account).then(
      (kept) => {
        const { pending } = useOutbox.getState()
        const known = new Set(pending.map((act) => act.wish.token))
        const left = kept.filter((act) => !known.has(act.wish.token))
        if (owner === account && left.length > 0) useOutbox.setState({ pending: [...left, ...pending] })
      },
      () => undefined,
    )
  }
  void flush()
}

/** The conflict is settled; with `mine` the act is made again on top of what is there now. */
export function settle(mine: boolean): void {
  const { conflict } = useOutbox.getState()
  useOutbox.setState({ conflict: null })
  if (conflict && mine) {
    // The window shows spans alone, so these alone are put in their place.
    const { kind, state, spans } = conflict.act.wish
    const { turned_down, question, answer } = conflict.theirs
    const wish = { kind, state, spans, turned_down, question, answer, verdicts: [], version: conflict.theirs.version, token: crypto.randomUUID() }
    const { project, account, sentence, turn } = conflict.act
    keep([{ project, account, sentence, turn, wish }, ...useOutbox.getState().pending])
  }
  void flush()
}
