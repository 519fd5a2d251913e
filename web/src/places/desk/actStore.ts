import { type DBSchema, type IDBPDatabase, openDB } from 'idb'

import type { PendingAct } from './outbox'

interface Acts extends DBSchema {
  acts: { key: [account: number, turn: number]; value: PendingAct }
}

let opened: Promise<IDBPDatabase<Acts>> | undefined

function database(): Promise<IDBPDatabase<Acts>> {
  opened ??= openDB<Acts>('urdaten', 1, {
    upgrade: (db) => void db.createObjectStore('acts', { keyPath: ['account', 'turn'] }),
  })
  return opened
}

/** Every act of an account holds between these. */
const of = (account: number) => IDBKeyRange.bound([account, 0], [account, Number.MAX_SAFE_INTEGER])

/**
 * The database answers later, and a page that is left meanwhile takes an unfinished write with it. What is on
 * its way there is therefore noted in the same breath, one note an act, and struck out once it is in.
 */
const notesOf = (account: number) => `urdaten.act.${account}.`
const noteOf = (act: PendingAct) => `${notesOf(act.account)}${act.turn}`

function note(acts: readonly PendingAct[]): void {
  try {
    for (const act of acts) localStorage.setItem(noteOf(act), JSON.stringify(act))
  } catch {
    // Full, or forbidden: the database alone has to do.
  }
}

function strike(acts: readonly PendingAct[]): void {
  for (const act of acts) localStorage.removeItem(noteOf(act))
}

/** What was noted and may not have reached the database. */
function noted(account: number): PendingAct[] {
  const keys = Object.keys(localStorage).filter((key) => key.startsWith(notesOf(account)))
  return keys.flatMap((key) => {
    try {
      return [JSON.parse(localStorage.getItem(key) ?? '') as PendingAct]
    } catch {
      localStorage.removeItem(key)
      return []
    }
  })
}

// An older page kept them here.
const older = (account: number) => `urdaten.outbox.${account}`

/** Acts that the browser keeps for an account, in their order; each account has its own. */
export async function keptActs(account: number): Promise<PendingAct[]> {
  await keepActs([...leftByOlder(account), ...noted(account)], [])
  localStorage.removeItem(older(account))
  return (await database()).getAll('acts', of(account))
}

function leftByOlder(account: number): PendingAct[] {
  try {
    const acts = JSON.parse(localStorage.getItem(older(account)) ?? '[]') as Omit<PendingAct, 'turn'>[]
    return acts.map((act, turn) => ({ ...act, turn, wish: { ...SILENT, ...act.wish } }))
  } catch {
    return []
  }
}

const SILENT = { turned_down: [], question: '', answer: '', verdicts: [] }

/** Keep some acts, let others go; what is kept outlasts the page from this call on. */
export async function keepActs(fresh: readonly PendingAct[], done: readonly PendingAct[]): Promise<void> {
  note(fresh)
  strike(done)
  const change = (await database()).transaction('acts', 'readwrite')
  await Promise.all([
    ...fresh.map((act) => change.store.put(act)),
    ...done.map((act) => change.store.delete([act.account, act.turn])),
    change.done,
  ])
  strike(fresh)
}
