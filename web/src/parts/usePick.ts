import { useCallback } from 'react'
import { useNavigate, useParams } from 'react-router'

import { useProject } from '../api/project'
import { useKeys } from './keys'
import { stepped } from './RowList'

/** The keys that choose the next row and the one before, and how these look: the one before first. */
export interface Steps {
  next: string
  previous: string
  caps: readonly [string, string]
}

export const ARROWS: Steps = { next: 'arrowdown', previous: 'arrowup', caps: ['↑', '↓'] }

/** Where the arrows go through something else. */
export const BRACKETS: Steps = { next: ']', previous: '[', caps: ['[', ']'] }

/**
 * Which row of a place is chosen: it stands in the address; keys choose another. `wanted` is the
 * number in the address, also of a row that is not among these. `search` is what stands in the address behind it.
 */
export function usePick<T extends { id: number }>(place: string, rows: readonly T[] | undefined, what: string, onPick?: () => void, search = '', steps: Steps = ARROWS) {
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
  const { next, previous, caps } = steps
  useKeys([
    { keys: [next], caps: [...caps], label: what, run: () => step(1), repeats: true },
    { keys: [previous], caps: caps.slice(0, 1), label: `previous ${what}`, run: () => step(-1), quiet: true, repeats: true },
  ])
  return { chosen, pick, wanted }
}
