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

// An older page kept them here.
const older = (account: number) => `urdaten.outbox.${account}`

/** Acts that the browser keeps for an account, in their order; each account has its own. */
export async function keptActs(account: number): Promise<PendingAct[]> {
  await keepActs(leftByOlder(account), [])
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

/** Keep some acts, let others go. */
export async function keepActs(fresh: readonly PendingAct[], done: readonly PendingAct[]): Promise<void> {
  const change = (await database()).transaction('acts', 'readwrite')
  await Promise.all([
    ...fresh.map((act) => change.store.put(act)),
    ...done.map((act) => change.store.delete([act.account, act.turn])),
    change.done,
  ])
}
