import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body, messageOf } from '../../api/client'
import { useProject } from '../../api/project'
import type { BundlePartShown, IncomingShown, PipelinePlan } from '../../api/schema'
import { Act, FileField, QuietAct } from '../../parts/controls'
import { useAct } from '../../parts/useAct'
import { Window } from '../../parts/Window'
import { isOver, Working } from '../../parts/Working'
import { plural } from '../../parts/words'
import { incomingQuery } from './queries'

interface BringWindowProps {
  onClose: () => void
  /** Its stages, to be looked at before they are saved. */
  onPlan: (plan: PipelinePlan) => void
}

/** A bundle from elsewhere: what it has that is not here, and bringing that in. */
export function BringWindow({ onClose, onPlan }: BringWindowProps) {
  const project = useProject()
  const [job, setJob] = useState<number | null>(null)
  const send = useAct(
    (file: File) =>
      body(
        api.POST('/api/projects/{project}/pipeline/incoming/file', {
          params: { path: { project }, query: { name: file.name.slice(0, 200) } },
          body: file as never,
          bodySerializer: () => file,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      ),
    { changes: 'jobs', onDone: ({ job: { id } }) => setJob(id) },
  )
  const keep = useAct((id: number) => body(api.POST('/api/projects/{project}/pipeline/incoming/{job_id}/keep', { params: { path: { project, job_id: id } } })), { changes: 'jobs', onDone: ({ job: { id } }) => setJob(id) })
  const query = useQuery({ ...incomingQuery(project, job ?? 0), enabled: job !== null, refetchInterval: ({ state }) => (state.data && isOver(state.data.job) ? false : 500) })
  const found = job === null ? undefined : query.data
  const done = found?.job.state === 'done'
  const ready = done && !found.kept
  return (
    <Window
      title="Bring in a bundle"
      stays
      onClose={onClose}
      footer={
        <Flex gap="2">
          <QuietAct onClick={onClose}>close</QuietAct>
          {ready && (
            <Act loading={keep.busy} onClick={() => keep.run(found.job.id)}>
              bring it in
            </Act>
          )}
          {done && found.kept && found.plan && (
            <Act
              onClick={() => {
                if (found.plan) onPlan(found.plan)
                onClose()
              }}
            >
              look at its stages
            </Act>
          )}
        </Flex>
      }
    >
      <Box mb="3">
        Types, lists, rules, taggers and record templates of the bundle come beside those that are here; none that is here changes. What has the name of something else gets a number behind its own. The pipeline stays as it is until you
        save another.
      </Box>
      {job === null && <FileField label="file of a bundle, or of a tagger" accept=".bundle,.bin" disabled={send.busy} onChoose={(file) => send.run(file)} />}
      {query.error && <Bad>{messageOf(query.error)}</Bad>}
      {found && !isOver(found.job) && <Working job={found.job} label="reading the bundle" mayStop />}
      {found && isOver(found.job) && !done && <Bad>{found.job.message}</Bad>}
      {done && <Found found={found} />}
      {found && isOver(found.job) && !done && <QuietAct onClick={() => setJob(null)}>choose another file</QuietAct>}
    </Window>
  )
}

const Bad = ({ children }: { children: string }) => (
  <Box color="bad" role="alert" my="2">
    {children}
  </Box>
)

const WHATS: Record<BundlePartShown['what'], string> = { type: 'type', list: 'list', fragment: 'fragment', rule: 'rule', tagger: 'tagger', template: 'record template' }

function Found({ found: { arrivals, notes, kept } }: { found: IncomingShown }) {
  const coming = arrivals.filter(({ how }) => how !== 'same')
  const there = arrivals.length - coming.length
  return (
    <Box role="group" aria-label="what comes">
      <Box fontWeight="bold" mb="1">
        {coming.length === 0 ? 'Everything that it has is here already.' : `${plural(coming.length, 'part')} ${kept ? 'came in' : 'would come in'}; ${there} ${there === 1 ? 'is' : 'are'} here already.`}
      </Box>
      <Box as="ul" listStyleType="none" maxH="60" overflowY="auto">
        {coming.map(({ what, name, becomes, how }) => (
          <li key={`${what} ${name}`}>
            <Box as="span" color="second">
              {WHATS[what]}
            </Box>{' '}
            {name}
            {how === 'renamed' && ` as “${becomes}”`}
          </li>
        ))}
      </Box>
      {notes.map((note) => (
        <Box key={note} color="gold" mt="1">
          {note}
        </Box>
      ))}
    </Box>
  )
}
