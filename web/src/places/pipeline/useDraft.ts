import { useCallback, useReducer } from 'react'

import type { PipelinePlan, PipelineVersionShown } from '../../api/schema'
import { samePlan } from './plan'

/** What somebody has changed and not kept: the version that they began with, and every step, so that each can be undone. */
interface Draft {
  base: number
  past: readonly PipelinePlan[]
  plan: PipelinePlan
  future: readonly PipelinePlan[]
}

/** What was changed and not kept, by project, while one is elsewhere; lives as long as the page. */
export const drafts = new Map<string, Draft>()

/** The plan as it is being changed. A version that somebody else keeps meanwhile is not mixed in: who keeps theirs then hears of it. */
export function useDraft(project: string, kept: PipelineVersionShown) {
  const [, redraw] = useReducer((turn: number) => turn + 1, 0)
  const draft = drafts.get(project) ?? { base: kept.number, past: [], plan: kept.plan, future: [] }
  const put = useCallback(
    (next: Draft | null) => {
      if (next === null) drafts.delete(project)
      else drafts.set(project, next)
      redraw()
    },
    [project],
  )
  const isChanged = drafts.has(project) && !samePlan(draft.plan, kept.plan)
  const { past, plan, future } = draft
  const before = past.at(-1)
  const after = future[0]
  return {
    plan,
    base: draft.base,
    isChanged,
    change: (next: PipelinePlan) => {
      if (!samePlan(next, plan)) put({ ...draft, past: [...past, plan], plan: next, future: [] })
    },
    undo: before && (() => put({ ...draft, past: past.slice(0, -1), plan: before, future: [plan, ...future] })),
    redo: after && (() => put({ ...draft, past: [...past, plan], plan: after, future: future.slice(1) })),
    discard: () => put(null),
    /** What is on the way stays; it stands on another version now. */
    onto: (base: number) => put({ ...draft, base }),
  }
}

export type PlanDraft = ReturnType<typeof useDraft>
