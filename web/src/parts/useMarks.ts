import { useCallback, useState } from 'react'

interface Row {
  id: number
}

/** Rows that something is to be done to at once: some of them, or all that a list would come to. */
export interface Marks {
  all: boolean
  some: ReadonlySet<number>
}

const NONE: Marks = { all: false, some: new Set() }

/** `of` says what the list shows: marks of another list are gone. */
export function useMarks(rows: readonly Row[], of: string) {
  const [{ marks, last, shown }, set] = useState({ marks: NONE, last: null as number | null, shown: of })
  const held = shown === of ? marks : NONE
  const has = useCallback((id: number) => held.all || held.some.has(id), [held])
  /** Marks or unmarks one, or, with `through`, all from the one that was marked last. */
  const toggle = (id: number, through = false) => {
    const on = !has(id)
    const from = through && last !== null && shown === of ? rows.findIndex((row) => row.id === last) : -1
    const to = rows.findIndex((row) => row.id === id)
    const run = from < 0 || to < 0 ? [id] : rows.slice(Math.min(from, to), Math.max(from, to) + 1).map((row) => row.id)
    // One fewer than all are those that have been fetched.
    const some = new Set(held.all ? rows.map((row) => row.id) : held.some)
    for (const one of run) {
      if (on) some.add(one)
      else some.delete(one)
    }
    set({ marks: { all: false, some }, last: id, shown: of })
  }
  const markAll = () => set({ marks: { all: true, some: new Set() }, last: null, shown: of })
  const clear = () => set({ marks: NONE, last: null, shown: of })
  return { has, toggle, markAll, clear, marks: held, any: held.all || held.some.size > 0 }
}
