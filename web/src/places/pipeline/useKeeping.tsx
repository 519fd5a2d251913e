import { useMutation, useQueryClient } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { Box } from '@chakra-ui/react'

import { api, body, ProblemError } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import { Act, QuietAct } from '../../parts/controls'
import { tell, tellError } from '../../parts/notes'
import { pipelineQuery } from './queries'
import type { PlanDraft } from './useDraft'

/** Save what was changed; where somebody else saved first, both are kept until one has chosen. */
export function useKeeping(draft: PlanDraft): { keep: () => void; busy: boolean; stale: ReactNode } {
  const project = useProject()
  const client = useQueryClient()
  const { mutate, isPending, error, reset } = useMutation({
    mutationFn: (seen: number) => body(api.PUT('/api/projects/{project}/pipeline', { params: { path: { project } }, body: { plan: draft.plan, seen } })),
    onSuccess: (shown) => {
      client.setQueryData(pipelineQuery(project).queryKey, shown)
      draft.discard()
      tell(`Version ${shown.version.number} is saved: ${shown.version.said}.`)
      invalidate(client, project, 'pipeline')
    },
    onError: (fault) => (theirsOf(fault) === null ? tellError(fault) : undefined),
  })
  const theirs = theirsOf(error)
  const stale = theirs !== null && (
    <Box role="alert" bg="goldGround" px="3" py="2" mb="3">
      <Box mb="2">Somebody else saved version {theirs} of the pipeline meanwhile. What you changed is still here.</Box>
      <Act
        onClick={() => {
          draft.onto(theirs)
          mutate(theirs)
        }}
      >
        save mine after it
      </Act>{' '}
      <QuietAct
        onClick={() => {
          reset()
          draft.discard()
          invalidate(client, project, 'pipeline')
        }}
      >
        take theirs
      </QuietAct>
    </Box>
  )
  return { keep: () => !isPending && mutate(draft.base), busy: isPending, stale }
}

/** The number of the version that was saved first; null where it is something else that went wrong. */
function theirsOf(fault: unknown): number | null {
  if (!(fault instanceof ProblemError) || fault.status !== 409) return null
  const { number } = fault.more as { number?: unknown }
  return typeof number === 'number' ? number : null
}
