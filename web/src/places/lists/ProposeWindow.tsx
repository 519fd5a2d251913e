import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { api, body, messageOf } from '../../api/client'
import { useProject } from '../../api/project'
import type { JobShown, ListShown } from '../../api/schema'
import { Act, CheckFields, QuietAct, TextField } from '../../parts/controls'
import { useAct } from '../../parts/useAct'
import { FormWindow, Window } from '../../parts/Window'
import { number } from '../../parts/words'
import { isOver } from '../../parts/Working'
import { jobQuery } from './queries'

/** What lists find in unsigned sentences made a layer, to be looked through at the Desk. */
export function ProposeWindow({ lists, onClose }: { lists: readonly ListShown[]; onClose: () => void }) {
  const project = useProject()
  const on = lists.filter((list) => list.on)
  const [name, setName] = useState('from lists')
  const [chosen, setChosen] = useState<readonly string[]>(() => on.map((list) => list.name))
  const [job, setJob] = useState<JobShown | null>(null)
  if (job) return <Proposing job={job} onClose={onClose} />
  const send = async () => {
    const wanted = on.filter((list) => chosen.includes(list.name)).map(({ id }) => id)
    const wish = { name, lists: wanted.length === on.length ? null : wanted }
    setJob(await body(api.POST('/api/projects/{project}/desk/layers/from-lists', { params: { path: { project } }, body: wish })))
  }
  return (
    <FormWindow title="Propose spans from lists" send="propose" fields={['name', 'lists']} stays onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <Box mb="3">
            Whatever the lists find in sentences that nobody has signed becomes a span in a layer of its own. A find within a longer one gives way to it; where finds of different types stand on the same
            words, or overlap, none is taken. Test texts are left out. Nothing is marked in gold before somebody has looked it through at the Desk.
          </Box>
          <TextField label="name of the layer" value={name} error={errorOf('name')} onChange={setName} />
          <CheckFields legend="lists" options={on.map((list) => ({ value: list.name, label: `${list.name} (${list.type})` }))} chosen={chosen} error={errorOf('lists')} onChange={setChosen} />
        </>
      )}
    </FormWindow>
  )
}

function Proposing({ job, onClose }: { job: JobShown; onClose: () => void }) {
  const project = useProject()
  const query = useQuery({ ...jobQuery(project, job.id), refetchInterval: ({ state }) => (state.data && isOver(state.data) ? false : 400) })
  const now = query.data ?? job
  const stop = useAct(() => api.POST('/api/projects/{project}/jobs/{job_id}/stop', { params: { path: { project, job_id: job.id } } }))
  const over = isOver(now)
  return (
    <Window
      title="Propose spans from lists"
      reads
      stays
      onClose={onClose}
      footer={
        <Flex gap="2">
          {!over && <QuietAct onClick={() => stop.run()}>stop</QuietAct>}
          <QuietAct onClick={onClose}>close</QuietAct>
          {now.state === 'done' && (
            <Act asChild>
              <Link to={`/p/${project}/desk`}>to the Desk</Link>
            </Act>
          )}
        </Flex>
      }
    >
      <Box role="status" color={over && now.state !== 'done' ? 'bad' : 'ink'}>
        {query.error ? messageOf(query.error) : now.message || (over ? '' : now.total > 0 ? `${number(now.done)} of ${number(now.total)} texts` : 'It begins.')}
      </Box>
      {now.state === 'done' && <Box mt="2">At the Desk, “take over a layer” above the sentences shows them one by one.</Box>}
    </Window>
  )
}
