import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useSearchParams } from 'react-router'

import { useProject } from '../../api/project'
import type { EntryShown } from '../../api/schema'
import { entryQuery } from './queries'

/** The entry at the cursor of the open list: by the address when one came by it, then by what is chosen. */
export function useEntryAtCursor(list: number | undefined) {
  const project = useProject()
  const [search, setSearch] = useSearchParams()
  const wanted = Number(search.get('entry')) || null
  const [chosen, choose] = useState<{ list: number; entry: EntryShown } | null>(null)
  const own = chosen && chosen.list === list ? chosen.entry : null
  const read = useQuery({ ...entryQuery(project, list ?? 0, wanted ?? own?.id ?? 0), enabled: list !== undefined && (wanted ?? own) !== null })
  const id = wanted ?? own?.id ?? null
  const at = (entry: EntryShown | null) => {
    if (list === undefined) return
    if (wanted !== null) setSearch({}, { replace: true })
    choose(entry && { list, entry })
  }
  // What the server says of it now, or what the list had of it.
  const entry = read.data?.id === id ? read.data : own?.id === id ? own : undefined
  return { id, entry, at }
}

export type EntryCursor = ReturnType<typeof useEntryAtCursor>
