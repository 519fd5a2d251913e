import { create } from 'zustand'

import { messageOf } from '../api/client'

/** A line that tells what happened; errors stay until they are read. */
export interface Note {
  id: number
  text: string
  bad: boolean
}

interface NoteStore {
  notes: Note[]
  add: (text: string, bad?: boolean) => void
  drop: (id: number) => void
}

const SHOWN_MS = 5000
let last = 0

export const useNotes = create<NoteStore>((set) => ({
  notes: [],
  add: (text, bad = false) => {
    const id = ++last
    set((s) => ({ notes: [...s.notes.filter((n) => n.text !== text), { id, text, bad }].slice(-4) }))
    if (!bad) window.setTimeout(() => set((s) => ({ notes: s.notes.filter((n) => n.id !== id) })), SHOWN_MS)
  },
  drop: (id) => set((s) => ({ notes: s.notes.filter((n) => n.id !== id) })),
}))

export function tell(text: string): void {
  useNotes.getState().add(text)
}

export function tellError(error: unknown): void {
  useNotes.getState().add(messageOf(error), true)
}
