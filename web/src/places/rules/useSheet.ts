import { useMutation } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { type KeyBinding, useKeys } from '../../parts/keys'

interface SheetOptions<D, M> {
  /** Where what is typed is kept while one is elsewhere. */
  kept: { get: () => D | undefined; set: (draft: D) => void; drop: () => void }
  /** It as it is, or as a new one begins. */
  start: D
  isNew: boolean
  lead: boolean
  /** What it is called, as in "save the rule". */
  one: string
  /** Its version now; none of a new one. */
  version?: number | undefined
  /** `seen` is the version that was there when editing began, or that is saved over after both were seen. */
  send: (draft: D, seen: number) => Promise<M>
  onDone: (made: M) => unknown
  onCancel?: (() => void) | undefined
  /** Keys that work while it is only read. */
  reading?: KeyBinding[]
  /** A window stands over it: no key is its own. */
  covered?: boolean
  /** Keys of a sheet at level 1 hide those of the place. */
  level?: number
}

/** A rule or fragment that is read, and edited where it stands: what is typed is kept until it is saved or discarded. */
export function useSheet<D, M>({ kept, start, isNew, lead, one, version = 0, send, onDone, onCancel, reading = [], covered = false, level = 0 }: SheetOptions<D, M>) {
  const [before] = useState(kept.get)
  const [typed, setTyped] = useState(before ?? start)
  const [seen, setSeen] = useState(version)
  const [editing, setEditing] = useState(isNew || before !== undefined)
  const [leaving, setLeaving] = useState(false)
  // Whoever only reads sees it as it is now, also after somebody has changed it, or undone that.
  const draft = editing ? typed : start
  const changed = editing && JSON.stringify(draft) !== JSON.stringify(start)
  useEffect(() => {
    if (changed) kept.set(draft)
    else kept.drop()
    // eslint-disable-next-line react-hooks/exhaustive-deps -- where it is kept is the same for as long as the sheet stands
  }, [changed, draft])
  const saving = useMutation({
    mutationFn: (over?: number) => send(draft, over ?? seen),
    onSuccess: async (made) => {
      kept.drop()
      setEditing(false)
      await onDone(made)
    },
  })
  const save = (over?: number) => {
    if (!saving.isPending) saving.mutate(over)
  }
  const cancel = () => {
    kept.drop()
    setTyped(start)
    saving.reset()
    setEditing(false)
    setLeaving(false)
    onCancel?.()
  }
  const type = (next: D) => {
    saving.reset()
    setTyped(next)
  }
  const edit = () => {
    setTyped(start)
    setSeen(version)
    setEditing(true)
  }
  useKeys(
    covered
      ? []
      : editing && lead
      ? [
          { keys: ['ctrl+enter'], caps: ['ctrl', 'enter'], label: `save the ${one}`, run: () => save(), inFields: true },
          { keys: ['escape'], caps: ['esc'], label: 'cancel', run: () => (changed ? setLeaving(true) : cancel()), inFields: true },
        ]
      : [...reading, ...(lead ? [{ keys: ['e'], caps: ['e'], label: `edit the ${one}`, run: edit }] : [])],
    level,
  )
  return { draft, type, editing: editing && lead, edit, changed, before, save, cancel, busy: saving.isPending, error: saving.error, leaving, stay: () => setLeaving(false) }
}

export type Sheet = Omit<ReturnType<typeof useSheet<unknown, unknown>>, 'draft' | 'type' | 'before'>
