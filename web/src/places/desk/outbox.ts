import { create } from 'zustand'

import { messageOf, ProblemError, UnreachableError } from '../../api/client'
import type { AnnotationShown } from '../../api/schema'
import { keepActs, keptActs } from './actStore'
import { type Conflict, onTop, type Theirs, theirsOf } from './conflict'
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
  /** An earlier act, by its token, is undone or redone; `wish` is then what the sentence will be after it. */
  travel?: { way: Way; of: string }
  /** Its place among the account's acts. */
  turn: number
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
  /** Somebody else wrote first: until that is settled the sentence is what they made of it. */
  overtaken: (act: PendingAct, theirs: Theirs) => void
}

/** Acts on one sentence that can never pass, and why. */
export interface Aside {
  project: string
  sentence: number
  kinds: string[]
  why: string
}

/** Whether acts go through, and if not, why: nobody reaches the server, it has too much to do, or it no longer knows who we are. */
export type Line = 'open' | 'away' | 'busy' | 'signed out'

interface OutboxState {
  pending: PendingAct[]
  line: Line
  /** To be settled one after the other. */
  conflicts: Conflict[]
  aside: Aside[]
}

/** How often an act is sent again that the server fails on, before it counts as one that can never pass. */
export const MOST_FAILURES = 5
export const RETRY_MS = 1500
export const EMPTY: OutboxState = { pending: [], line: 'open', conflicts: [], aside: [] }
export const useOutbox = create<OutboxState>(() => EMPTY)

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

/** What keeps an act from passing now and may let it pass later; undefined where it never will. */
export function lineOf(error: unknown): Exclude<Line, 'open'> | undefined {
  if (error instanceof UnreachableError) return 'away'
  if (!(error instanceof ProblemError)) return undefined
  if (error.status === 401) return 'signed out'
  // What stands between us and the server says these two when it finds nobody there.
  if (error.status === 502 || error.status === 504) return 'away'
  return error.status >= 500 || error.status === 429 || error.status === 408 ? 'busy' : undefined
}

let ends: OutboxEnds | null = null
let running: Promise<void> | null = null
let wanted = false

async function run(): Promise<void> {
  let failures = 0
  for (;;) {
    const act = useOutbox.getState().pending[0]
    if (!act || !ends) return
    try {
      ends.arrived(act, await ends.send(act))
      failures = 0
      useOutbox.setState({ line: 'open' })
      keep(useOutbox.getState().pending.filter((other) => other.wish.token !== act.wish.token))
    } catch (error) {
      const line = lineOf(error)
      // One that the server itself fails on, again and again, must not hold up all that is behind it.
      if (error instanceof ProblemError && error.status === 500) failures += 1
      if (line && failures < MOST_FAILURES) {
        useOutbox.setState({ line })
        if (line === 'signed out') return
        await new Promise((wake) => setTimeout(wake, RETRY_MS))
        continue
      }
      failures = 0
      useOutbox.setState({ line: 'open' })
      takeOut(ends, act, error)
    }
  }
}

/** An act that will not pass as it is leaves the box, with those that were made on top of it in that sentence. */
function takeOut({ overtaken, refused }: OutboxEnds, act: PendingAct, error: unknown): void {
  const { pending, conflicts, aside } = useOutbox.getState()
  const isLost = (other: PendingAct) => other.sentence === act.sentence && other.project === act.project
  const acts = pending.filter(isLost)
  const theirs = theirsOf(error)
  if (theirs) {
    forget(act.project)
    // Kept before they leave the box: nothing is lost with the page between the two.
    setConflicts([...conflicts, { acts, theirs }])
    overtaken(act, theirs)
  } else {
    setAside([...aside, { project: act.project, sentence: act.sentence, kinds: acts.map((other) => other.wish.kind), why: messageOf(error) }])
  }
  keep(pending.filter((other) => !isLost(other)))
  if (!theirs) refused(act, error)
}

const asideOf = (account: number) => `urdaten.aside.${account}`
const conflictsOf = (account: number) => `urdaten.conflicts.${account}`

function setAside(aside: Aside[]): void {
  useOutbox.setState({ aside })
  write(asideOf(owner), aside)
}

function setConflicts(conflicts: Conflict[]): void {
  useOutbox.setState({ conflicts })
  write(conflictsOf(owner), conflicts)
}

function write(key: string, list: readonly unknown[]): void {
  try {
    if (list.length > 0) localStorage.setItem(key, JSON.stringify(list))
    else localStorage.removeItem(key)
  } catch {
    // Full, or forbidden: it lives as long as the page.
  }
}

function read<T>(key: string): T[] {
  try {
    return JSON.parse(localStorage.getItem(key) ?? '[]') as T[]
  } catch {
    return []
  }
}

/** What was set aside has been read. */
export function clearAside(): void {
  setAside([])
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
    useOutbox.setState({ ...EMPTY, aside: read(asideOf(account)), conflicts: read(conflictsOf(account)) })
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

/** The first conflict is settled; with `mine` my acts are made again on top of what is there now. */
export function settle(mine: boolean): void {
  const [conflict, ...others] = useOutbox.getState().conflicts
  if (!conflict) return
  if (mine) keep([...onTop(conflict), ...useOutbox.getState().pending])
  setConflicts(others)
  void flush()
}
