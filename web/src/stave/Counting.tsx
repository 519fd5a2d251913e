import { Box, Flex } from '@chakra-ui/react'
import { queryOptions, useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body } from '../api/client'
import { useIsLead, useProject } from '../api/project'
import { Act, BadAct } from '../parts/controls'
import { tellError } from '../parts/notes'
import { Meter } from '../parts/signs'
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
  const [asking, setAsking] = useState(false)
  const job = data?.job
  if (!job) return null
  const ask = async (what: () => Promise<unknown>) => {
    setAsking(true)
    try {
      await what()
    } catch (error) {
      tellError(error)
    } finally {
      setAsking(false)
    }
  }
  const stop = () => api.POST('/api/projects/{project}/jobs/{job_id}/stop', { params: { path: { project, job_id: job.id } } })
  const count = () => api.POST('/api/projects/{project}/evidence/count', { params: { path: { project } } })
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
            <BadAct disabled={asking} onClick={() => void ask(stop)}>
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
          <Act disabled={asking} onClick={() => void ask(count)}>
            count the rest
          </Act>
        </Box>
      )}
    </Box>
  )
}
