import { Box, Flex } from '@chakra-ui/react'

import { api } from '../api/client'
import { useProject } from '../api/project'
import type { JobShown } from '../api/schema'
import { BadAct } from './controls'
import { Meter } from './signs'
import { useAct } from './useAct'

export const isOver = ({ state }: Pick<JobShown, 'state'>) => !['waiting', 'running'].includes(state)

/** A job on its way: how far it is, what it does, and a way to stop it. Only a lead may do that. */
export function Working({ job, label, mayStop }: { job: JobShown; label: string; mayStop: boolean }) {
  const project = useProject()
  const stop = useAct(() => api.POST('/api/projects/{project}/jobs/{job_id}/stop', { params: { path: { project, job_id: job.id } } }), { changes: 'jobs' })
  return (
    <Box w="full">
      <Flex gap="2" align="center">
        <Box flex="1">
          <Meter done={job.done} all={job.total} label={label} />
        </Box>
        {mayStop && (
          <BadAct loading={stop.busy} onClick={() => stop.run()}>
            stop
          </BadAct>
        )}
      </Flex>
      {job.message && (
        <Box fontSize="small" color="second" role="status">
          {job.message}
        </Box>
      )}
    </Box>
  )
}
