import { useCallback } from 'react'
import { useNavigate, useParams } from 'react-router'

import { useProject } from '../api/project'
import { useKeys } from './keys'
import { stepped } from './RowList'

/**
 * Which row of a place is chosen: it stands in the address; up and down choose another. `wanted` is the
 * number in the address, also of a row that is not among these. `search` is what stands in the address behind it.
 */
export function usePick<T extends { id: number }>(place: string, rows: readonly T[] | undefined, what: string, onPick?: () => void, search = '') {
  const project = useProject()
  const navigate = useNavigate()
  const { id } = useParams()
  const wanted = id === undefined ? null : Number(id)
  const chosen = rows?.find((row) => row.id === wanted) ?? (wanted === null ? rows?.[0] : undefined)
  const pick = useCallback(
    (row: { id: number } | null) => {
      onPick?.()
      void navigate({ pathname: row ? `/p/${project}/${place}/${row.id}` : `/p/${project}/${place}`, search })
    },
    [navigate, project, place, onPick, search],
  )
  const step = (by: number) => {
    const row = stepped(rows ?? [], (r) => r.id, chosen?.id ?? null, by)
    if (row) pick(row)
  }
  useKeys([
    { keys: ['arrowdown'], caps: ['↑', '↓'], label: what, run: () => step(1), repeats: true },
    { keys: ['arrowup'], caps: ['↑'], label: `previous ${what}`, run: () => step(-1), quiet: true, repeats: true },
  ])
  return { chosen, pick, wanted }
}
