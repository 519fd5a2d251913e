import { Box, Flex } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { IntakeShown, LookedShown, ReportShown } from '../../api/schema'
import { Act, BadAct, LinkAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Title } from '../../parts/layout'
import { Meter } from '../../parts/signs'
import { useAct } from '../../parts/useAct'
import { Sure } from '../../parts/Window'
import { number, plural } from '../../parts/words'
import { Carried, carriedWords, Remains } from './Carried'
import { Files, Sending, size } from './Files'
import { Alike, FoundFiles, Refusals, Samples } from './Found'
import { Labels } from './Labels'
import { type Plan, workOf } from './plan'
import { PlanForm } from './PlanForm'
import { importQuery } from './queries'
import type { Sent } from './sending'
import type { useSending } from './useSending'

interface ImportSheetProps {
  one: IntakeShown
  sending: ReturnType<typeof useSending>
  take: (files: readonly Sent[]) => void
  onGone: () => void
}

const ENDED_EARLY = ['failed', 'stopped', 'interrupted']

/** One import: its files, what was found in them, how they are read, and what comes of it. */
export function ImportSheet({ one, sending, take, onGone }: ImportSheetProps) {
  const project = useProject()
  const client = useQueryClient()
  const [dropping, setDropping] = useState(false)
  const path = { project, intake_id: one.id }
  const { queryKey } = importQuery(project, one.id)
  const shown = (made: IntakeShown) => client.setQueryData(queryKey, made)
  const keep = useAct(() => body(api.POST('/api/projects/{project}/imports/{intake_id}/keep', { params: { path } })), { changes: queryKey, onDone: shown })
  // Whoever changes the plan wants to see what comes of it.
  const change = useAct(
    async (plan: Plan) => {
      await api.PUT('/api/projects/{project}/imports/{intake_id}/plan', { params: { path }, body: plan })
      return body(api.POST('/api/projects/{project}/imports/{intake_id}/look', { params: { path } }))
    },
    { changes: queryKey, onDone: shown },
  )
  const add = useAct(
    async (labels: readonly string[]) => {
      await api.POST('/api/projects/{project}/imports/{intake_id}/types', { params: { path }, body: { labels: [...labels] } })
      await client.invalidateQueries({ queryKey: ['p', project, 'types'] })
      return body(api.POST('/api/projects/{project}/imports/{intake_id}/look', { params: { path } }))
    },
    { changes: queryKey, onDone: shown },
  )
  const look = useAct(() => body(api.POST('/api/projects/{project}/imports/{intake_id}/look', { params: { path } })), { changes: queryKey, onDone: shown })
  const { looked, report } = one
  const at = workOf(one)
  const ready = looked !== null && looked.holds && looked.texts > 0 && at === null && sending.far === null && !change.busy
  useKeys(ready ? [{ keys: ['ctrl+enter'], caps: ['ctrl', 'enter'], label: 'import', inFields: true, run: () => keep.run() }] : [])
  if (report) return <Kept report={report} id={one.id} project={project} />
  return (
    <>
      <Title
        side={
          <>
            <BadAct onClick={() => setDropping(true)}>drop this import</BadAct>
            <Act disabled={!ready} loading={keep.busy} onClick={() => keep.run()}>
              {looked && looked.texts > 0 ? `import ${plural(looked.texts, 'text')}` : 'import'}
            </Act>
          </>
        }
      >
        {one.files === 0 ? 'Nothing has come yet' : `${plural(one.files, 'file')}, ${size(one.size)}`}
      </Title>
      {sending.far ? <Sending far={sending.far} onStop={sending.stop} /> : <Files take={take} busy={at === 'keeping' || at === 'fetching'} />}
      {at !== null && one.work && <Working work={one.work} project={project} at={at} />}
      {at === null && one.work && ENDED_EARLY.includes(one.work.state) && (
        <Box role="alert" color={one.work.state === 'failed' ? 'bad' : 'second'} mb="3">
          {one.work.message || 'It was stopped; nothing was kept.'}
        </Box>
      )}
      {at === null && sending.far === null && one.files > 0 && (looked === null || !looked.holds) && (
        <Flex align="center" gap="3" mb="3">
          <Box color="second">{looked === null ? 'Nobody has looked into these files yet.' : 'Files or plan have changed since these were looked into.'}</Box>
          <QuietAct onClick={() => look.run()}>look into them</QuietAct>
        </Flex>
      )}
      {looked && (
        <Box opacity={looked.holds && at !== 'looking' ? undefined : 0.6} aria-busy={at === 'looking' || undefined}>
          <Summary looked={looked} />
          {looked.carried && <Carried carried={looked.carried} />}
          <PlanForm plan={change.of ?? one.plan} looked={looked} onChange={change.run} />
          <FoundFiles looked={looked} plan={change.of ?? one.plan} onChange={change.run} />
          {looked.labels.length > 0 && <Labels looked={looked} plan={change.of ?? one.plan} onChange={change.run} onAdd={add.run} adding={add.busy} />}
          <Samples looked={looked} />
          <Refusals looked={looked} />
          <Alike looked={looked} />
        </Box>
      )}
      {dropping && (
        <Sure
          title="Drop this import?"
          act="drop"
          onClose={() => setDropping(false)}
          onSure={async () => {
            await api.DELETE('/api/projects/{project}/imports/{intake_id}', { params: { path } })
            void client.invalidateQueries({ queryKey: ['p', project, 'imports'] })
            onGone()
          }}
        >
          Its files go; no text has been kept of them.
        </Sure>
      )}
    </>
  )
}

function Summary({ looked }: { looked: LookedShown }) {
  const { texts, signs, refused, same, twice, near, notes } = looked
  const told = [
    `${plural(texts, 'text')} to import, ${plural(signs, 'character')}`,
    refused > 0 && `${number(refused)} refused`,
    same > 0 && `${number(same)} of those here already`,
    twice > 0 && `${number(twice)} of those twice in these files`,
    near > 0 && `${number(near)} nearly the same as another`,
    notes > 0 && `${number(notes)} with something amiss that was got over`,
  ]
  return (
    <Box mb="3" fontSize="context">
      {told.filter(Boolean).join(' · ')}
    </Box>
  )
}

function Working({ work, project, at }: { work: NonNullable<IntakeShown['work']>; project: string; at: 'fetching' | 'looking' | 'keeping' }) {
  const stop = useAct(() => api.POST('/api/projects/{project}/jobs/{job_id}/stop', { params: { path: { project, job_id: work.id } } }), {
    changes: ['p', project, 'imports'],
  })
  const what = { fetching: 'Fetching pages', looking: 'Looking into the files', keeping: 'Importing' }[at]
  return (
    <Flex align="center" gap="4" mb="3" role="status">
      <Box flex="1">
        <Meter done={work.done} all={work.total} label={what} />
      </Box>
      <Box color="second" fontVariantNumeric="tabular-nums">
        {what}
        {work.state === 'waiting' ? ': waiting for other work' : work.message ? `: ${work.message}` : work.total > 0 && `: ${number(work.done)} of ${number(work.total)} ${work.unit}`}
      </Box>
      <BadAct loading={stop.busy} onClick={() => stop.run()}>
        stop
      </BadAct>
    </Flex>
  )
}

function Kept({ report, id, project }: { report: ReportShown; id: number; project: string }) {
  const leftOut = Object.entries(report.left_out)
  return (
    <>
      <Title>{plural(report.texts, 'text')} imported</Title>
      <Box as="ul" ps="4" mb="4" listStyleType="disc">
        <li>{plural(report.sentences, 'sentence')}, ready for the Desk</li>
        {report.spans > 0 && (
          <li>
            {plural(report.spans, 'span')}, {number(report.signed)} of the sentences signed
          </li>
        )}
        {report.carried && carriedWords(report.carried).map((words) => <li key={words}>{words}</li>)}
        {leftOut.map(([why, count]) => (
          <li key={why}>
            {plural(count, 'span')} left out {why}
          </li>
        ))}
        {report.refused > 0 && (
          <li>
            {number(report.refused)} refused{report.same + report.twice > 0 && `, ${number(report.same + report.twice)} of them because the text is here already`}:{' '}
            <LinkAct asChild>
              <a href={`/api/projects/${project}/imports/${id}/refusals`} download>
                what and why, as a table
              </a>
            </LinkAct>
          </li>
        )}
      </Box>
      <Flex gap="3">
        <Act asChild>
          <Link to={`/p/${project}/desk`}>to the Desk</Link>
        </Act>
        <QuietAct asChild>
          <Link to={`/p/${project}/texts`}>to the texts</Link>
        </QuietAct>
      </Flex>
      {report.carried && <Remains carried={report.carried} />}
    </>
  )
}
