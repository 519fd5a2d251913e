import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { TrialWish } from '../../api/schema'
import { BadAct, QuietAct } from '../../parts/controls'
import { Section } from '../../parts/layout'
import { Meter } from '../../parts/signs'
import { useAct } from '../../parts/useAct'
import { number, plural } from '../../parts/words'
import { StaveList } from '../../stave/StaveList'
import { takenGold, TRIAL_LANES, trialOfAllQuery } from './queries'
import { TrialSaid } from './TrialSaid'

/** Where a rule is tried on the first texts alone: the same on all of them, in the background. */
export function TrialOfAll({ wish, hues }: { wish: TrialWish; hues: ReadonlyMap<string, number> }) {
  const project = useProject()
  const [job, setJob] = useState<number | null>(null)
  const trial = useQuery({ ...trialOfAllQuery(project, job ?? 0), enabled: job !== null })
  const begin = useAct(() => body(api.POST('/api/projects/{project}/rules/trials', { params: { path: { project } }, body: wish })), { changes: 'jobs', onDone: (made) => setJob(made.job.id) })
  const stop = useAct((id: number) => api.POST('/api/projects/{project}/jobs/{job_id}/stop', { params: { path: { project, job_id: id } } }), { changes: 'jobs' })
  if (job === null) {
    return (
      <Box mt="2">
        <QuietAct loading={begin.busy} onClick={() => begin.run()}>
          try it on all texts
        </QuietAct>
      </Box>
    )
  }
  const far = trial.data?.job
  if (!trial.data || !far || far.state === 'waiting' || far.state === 'running') {
    return (
      <Flex gap="3" align="center" mt="2" maxW="2xl" color="second" role="status">
        <Box whiteSpace="nowrap">{far && far.total > 0 ? `tried on ${number(far.done)} of ${plural(far.total, 'text')}` : 'it waits for its turn'}</Box>
        <Box flex="1">
          <Meter done={far?.done ?? 0} all={far?.total ?? 0} label="texts tried" />
        </Box>
        {far && (
          <BadAct loading={stop.busy} onClick={() => stop.run(far.id)}>
            stop
          </BadAct>
        )}
      </Flex>
    )
  }
  const { takes, texts, staves } = trial.data
  const ended = far.state === 'done' || far.state === 'stopped'
  return (
    <Section>
      <Flex gap="3" align="baseline" mb="2">
        <Box role="status" color={ended ? undefined : 'bad'}>
          {ended
            ? <TrialSaid trial={trial.data} where={`${far.state === 'done' ? 'all' : 'the first'} ${plural(texts, 'text')}`} />
            : far.message}
        </Box>
        <QuietAct loading={begin.busy} onClick={() => begin.run()}>
          {far.state === 'done' ? 'try it again' : 'retry'}
        </QuietAct>
      </Flex>
      {ended && <StaveList page={{ total: staves.length, staves }} lanes={TRIAL_LANES} hues={hues} differing={takes ? takenGold : undefined} empty="" />}
    </Section>
  )
}
