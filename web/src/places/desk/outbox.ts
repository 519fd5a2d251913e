import { create } from 'zustand'

import { isPassing, ProblemError } from '../../api/client'
import type { AnnotationShown, ChangeWish } from '../../api/schema'
import type { MarkedSpan } from './edits'

/**
 * Acts on their way to the server. They show at once, are kept in the browser until the server has
 * them, and are sent in order; each carries a token, so that one sent twice is done once.
 */
export interface PendingAct {
  project: string
  account: number
  sentence: number
  wish: ChangeWish & { token: string }
}

export interface Conflict {
  act: PendingAct
  theirs: { state: string; version: number; spans: MarkedSpan[] }
}

export interface OutboxEnds {
  send: (act: PendingAct) => Promise<AnnotationShown>
  /** The server has it; called before the act leaves the box. */
  arrived: (act: PendingAct, annotation: AnnotationShown) => void
  /** The server refuses it for good; acts on that sentence are dropped. */
  refused: (act: PendingAct, error: unknown) => void
}

interface OutboxState {
  pending: PendingAct[]
  /** The server is out of reach and acts wait here. */
  holding: boolean
  conflict: Conflict | null
}

export const RETRY_MS = 1500
// Each account has a box of its own: nobody sends or overwrites what another left behind.
const storeOf = (account: number) => `urdaten.outbox.${account}`

export const useOutbox = create<OutboxState>(() => ({ pending: [], holding: false, conflict: null }))

const SILENT = { turned_down: [], question: '', answer: '', verdicts: [] }

let owner = 0

function keep(pending: PendingAct[]): void {
  useOutbox.setState({ pending })
  try {
    if (pending.length > 0) localStorage.setItem(storeOf(owner), JSON.stringify(pending))
    else localStorage.removeItem(storeOf(owner))
  } catch {
    // Without storage the acts live as long as the page; sending goes on all the same.
  }
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

function theirsOf(error: unknown): Conflict['theirs'] | undefined {
  if (!(error instanceof ProblemError) || error.kind !== 'urn:urdaten:stale-write') return undefined
  const theirs = error.more['theirs'] as { state: string; version: number; spans: [number, number, string][] }
  return { ...theirs, spans: theirs.spans.map(([start, end, type]) => ({ start, end, type })) }
}

let ends: OutboxEnds | null = null
let running: Promise<void> | null = null
let wanted = false

async function run(): Promise<void> {
  for (;;) {
    const { pending, conflict } = useOutbox.getState()
    const act = pending[0]
    if (!act || !ends || conflict) return
    try {
      const annotation = await ends.send(act)
      ends.arrived(act, annotation)
      useOutbox.setState({ holding: false })
      keep(useOutbox.getState().pending.filter((other) => other.wish.token !== act.wish.token))
    } catch (error) {
      const signedOut = error instanceof ProblemError && error.status === 401
      if (isPassing(error) || signedOut) {
        useOutbox.setState({ holding: true })
        if (signedOut) return
        await new Promise((wake) => setTimeout(wake, RETRY_MS))
        continue
      }
      const theirs = theirsOf(error)
      // Later acts on this sentence were made on top of this one: the last of them is what is wanted.
      const wanted = lastPending(useOutbox.getState().pending, act.project, act.sentence) ?? act
      keep(useOutbox.getState().pending.filter((o) => o.sentence !== act.sentence || o.project !== act.project))
      if (theirs) useOutbox.setState({ conflict: { act: wanted, theirs } })
      else ends.refused(act, error)
    }
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
      wanted = false
      await run()
    }
  } finally {
    running = null
  }
}

export function put(act: PendingAct): void {
  keep([...useOutbox.getState().pending, act])
  void flush()
}

/** Connect the box with the server, and take up what an earlier page of this account left behind. */
export function open(account: number, newEnds: OutboxEnds): void {
  ends = newEnds
  if (owner !== account) useOutbox.setState({ pending: [], holding: false, conflict: null })
  owner = account
  if (useOutbox.getState().pending.length === 0) {
    try {
      const read = JSON.parse(localStorage.getItem(storeOf(account)) ?? '[]') as PendingAct[]
      // An older page may have left acts that say less.
      const kept = read.map((act) => ({ ...act, wish: { ...SILENT, ...act.wish } }))
      if (kept.length > 0) useOutbox.setState({ pending: kept })
    } catch {
      localStorage.removeItem(storeOf(account))
    }
  }
  void flush()
}

/** The conflict is settled; with `mine` the act is made again on top of what is there now. */
export function settle(mine: boolean): void {
  const { conflict } = useOutbox.getState()
  useOutbox.setState({ conflict: null })
  if (conflict && mine) {
    const wish = { ...conflict.act.wish, version: conflict.theirs.version, token: crypto.randomUUID() }
    keep([{ ...conflict.act, wish }, ...useOutbox.getState().pending])
  }
  void flush()
}
