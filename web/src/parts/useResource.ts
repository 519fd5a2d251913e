import { type QueryKey, useQueryClient } from '@tanstack/react-query'
import { useCallback, useState } from 'react'

import type { Asked } from './Ask'
import { type KeyBinding, useKeys } from './keys'
import { stepped } from './RowList'
import { type Steps, usePick } from './usePick'

interface Row {
  id: number
}

/** What a person may do with the things of a place. */
export type Offer = 'add' | 'edit' | 'delete'

export const ALL_OFFERS: readonly Offer[] = ['add', 'edit', 'delete']

interface ResourceOptions<R extends Row, Data> {
  /** Its part of the address. */
  place: string
  /** What one of them is called. */
  one: string
  /** The question that lists them, and the key of its answer. */
  query: Asked<Data>
  queryKey: QueryKey
  rows: readonly R[] | undefined
  /** The answer with other rows; without it the answer is the rows. */
  within?: (data: Data, change: (rows: readonly R[]) => R[]) => Data
  offers: readonly Offer[]
  /** What adding one is called, if not "new …". */
  addLabel?: string
  /** What its name is for the key that edits, if more than its kind. */
  editLabel?: string
  /** What stands in the address behind the one that is open. */
  search?: string
  /** The keys that go through them, if not the arrows. */
  steps?: Steps
}

/**
 * Things in a list of which one is open: which one, by the address; which window stands over them; and what becomes of the
 * list when one is added, saved or deleted: the server's answer goes into it at once. Whoever opens another one has closed
 * the window.
 */
export function useResource<R extends Row, Data>(options: ResourceOptions<R, Data>) {
  const { place, one, query, queryKey, rows, within, offers, addLabel = `new ${one}` } = options
  const client = useQueryClient()
  const [opened, setOpened] = useState<Offer | null>(null)
  const close = useCallback(() => setOpened(null), [])
  const { chosen, pick, wanted } = usePick(place, rows, one, close, options.search, options.steps)
  const may = (offer: Offer) => offers.includes(offer)
  const open = (offer: Offer) => {
    if (may(offer) && (offer === 'add' || wanted !== null || chosen)) setOpened(offer)
  }
  const keys: Record<Offer, KeyBinding> = {
    add: { keys: ['n'], caps: ['n'], label: addLabel, run: () => open('add') },
    edit: { keys: ['e'], caps: ['e'], label: options.editLabel ?? `edit the ${one}`, run: () => open('edit') },
    delete: { keys: ['delete'], caps: ['del'], label: `delete the ${one}`, run: () => open('delete'), quiet: true },
  }
  useKeys(ALL_OFFERS.filter(may).map((offer) => keys[offer]))
  const change = (edit: (rows: readonly R[]) => R[]) =>
    client.setQueryData<Data>(queryKey, (data) => data && (within ? within(data, edit) : (edit(data as unknown as readonly R[]) as unknown as Data)))
  const saved = (row: R) => {
    change((old) => (old.some(({ id }) => id === row.id) ? old.map((other) => (other.id === row.id ? row : other)) : [...old, row]))
    pick(row)
  }
  const deleted = (row: Row) => {
    const rest = (rows ?? []).filter(({ id }) => id !== row.id)
    const next = stepped(rows ?? [], ({ id }) => id, row.id, 1)
    change((old) => old.filter(({ id }) => id !== row.id))
    pick(next && next.id !== row.id ? next : (rest.at(-1) ?? null))
  }
  return { one, addLabel, query, rows, chosen, wanted, pick, may, opened, open, close, saved, deleted }
}

export type Resource<R extends Row> = Omit<ReturnType<typeof useResource<R, unknown>>, 'query'> & { query: Asked<unknown> }
