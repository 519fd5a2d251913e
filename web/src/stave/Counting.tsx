import { Box, Flex } from '@chakra-ui/react'
import { queryOptions, useQuery } from '@tanstack/react-query'

import { api, body } from '../api/client'
import { useIsLead, useProject } from '../api/project'
import { Act, BadAct } from '../parts/controls'
import { Meter } from '../parts/signs'
import { useAct } from '../parts/useAct'
import { number, plural } from '../parts/words'

/** What the job counts as long as it counts finds; afterwards it lets the tagger read. */
const FINDS = 'texts'

const standingQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'jobs', 'evidence'],
    queryFn: () => body(api.GET('/api/projects/{project}/evidence', { params: { path: { project } } })),
  })

/** How far the finds of lists and rules are counted, where that takes its time; nothing when they are. */
export function Counting() {
  const project = useProject()
  const lead = useIsLead()
  const { data } = useQuery(standingQuery(project))
  const job = data?.job
  const stop = useAct((id: number) => api.POST('/api/projects/{project}/jobs/{job_id}/stop', { params: { path: { project, job_id: id } } }), { changes: 'jobs' })
  const count = useAct(() => api.POST('/api/projects/{project}/evidence/count', { params: { path: { project } } }), { changes: 'jobs' })
  if (!job) return null
  if (job.state === 'waiting' || (job.state === 'running' && job.unit === FINDS)) {
    return (
      <Box px="3" pb="2" fontSize="small" color="second">
        Finds are being counted{job.total > 0 && `: ${number(job.done)} of ${plural(job.total, 'text')}`}. Until then the figures
        are those of before.
        <Flex gap="2" align="center" mt="1">
          <Box flex="1">
            <Meter done={job.done} all={job.total} label="texts counted" />
          </Box>
          {lead && (
            <BadAct loading={stop.busy} onClick={() => stop.run(job.id)}>
              stop
            </BadAct>
          )}
        </Flex>
      </Box>
    )
  }
  if (data.behind === 0 || (job.state !== 'stopped' && job.state !== 'failed')) return null
  return (
    <Box px="3" pb="2" fontSize="small" color="second">
      {job.state === 'failed' ? `${job.message} ` : 'Counting was stopped. '}
      Finds in {plural(data.behind, 'text')} have yet to be counted.
      {lead && (
        <Box mt="1">
          <Act loading={count.busy} onClick={() => count.run()}>
            count the rest
          </Act>
        </Box>
      )}
    </Box>
  )
}
