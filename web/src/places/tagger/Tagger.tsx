import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'

import { api } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { TrainingShown } from '../../api/schema'
import { Act, BadAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Heading, Section, Title } from '../../parts/layout'
import { ResourceActs, ResourcePlace } from '../../parts/ResourcePlace'
import { Facts, Meter } from '../../parts/signs'
import { useAct } from '../../parts/useAct'
import { useResource } from '../../parts/useResource'
import { moment, number, score } from '../../parts/words'
import { ByType } from './ByType'
import { Compare } from './Compare'
import { Config } from './Config'
import { Curve } from './Curve'
import { bestDev, timeLeft } from './epochs'
import { acts, trainingsQuery } from './queries'
import { Retraining } from './Retraining'
import { TrainingForm } from './TrainingForm'

const STATES: Record<string, string> = {
  waiting: 'waiting for the worker',
  running: 'running',
  done: 'done',
  stopped: 'stopped',
  failed: 'failed',
  interrupted: 'interrupted',
}

/** Trainings: start one, watch it, stop it, put its tagger to use. */
export function Tagger() {
  const project = useProject()
  const lead = useIsLead()
  const query = useQuery(trainingsQuery(project))
  const { queryKey } = trainingsQuery(project)
  const trainings = useResource<TrainingShown, TrainingShown[]>({ place: 'tagger', one: 'training', query, queryKey, rows: query.data, offers: lead ? ['add', 'delete'] : [] })
  const { chosen } = trainings
  const [like, setLike] = useState(false)
  const [otherId, setOtherId] = useState<number | null>(null)
  const run = useAct(({ act, id }: { act: keyof typeof acts; id: number }) => acts[act](project, id), { changes: 'tagger' })
  const ask = (act: keyof typeof acts) => chosen && run.run({ act, id: chosen.id })
  useKeys(
    lead
      ? [
          ...(chosen?.live ? [{ keys: ['s'], caps: ['s'], label: 'stop and save the best', run: () => ask('stop') }] : []),
          ...(chosen?.has_model && !chosen.in_use ? [{ keys: ['p'], caps: ['p'], label: 'put to use', run: () => ask('use') }] : []),
        ]
      : [],
  )
  const inUse = query.data?.find((t) => t.in_use)
  const count = query.data?.length ?? 0
  const onTaken = (training: TrainingShown) => {
    setLike(false)
    trainings.saved(training)
  }
  return (
    <ResourcePlace
      resource={trainings}
      heading="Trainings"
      figure="dev F1"
      height={46}
      label="trainings"
      row={(training) => <TrainingRow training={training} />}
      below={
        <>
          {inUse && inUse.changes.length > 0 && (
            <Box px="3" py="2" color="second" fontSize="small">
              Since the tagger in use was made, {inUse.changes.join('; ')}.
            </Box>
          )}
          <Retraining lead={lead} />
        </>
      }
      right={chosen && <Config key={chosen.id} training={chosen} onTakeUp={lead ? () => setLike(true) : undefined} />}
      empty="The tagger learns from signed sentences of the train split; lists and rules are among its features. There is no training yet."
      form={() => <TrainingForm count={count} onClose={trainings.close} onDone={trainings.saved} />}
      onDelete={(training) => api.DELETE('/api/projects/{project}/trainings/{training_id}', { params: { path: { project, training_id: training.id } } })}
      loss={(training) => ({
        name: training.name,
        says: 'Its curves and its tagger go. Scorecards that measured it stay. With the same data, settings and seed it can be trained again just so.',
      })}
      windows={like && chosen && <TrainingForm count={count} from={chosen.settings} onClose={() => setLike(false)} onDone={onTaken} />}
    >
      {(training) => (
        <Sheet
          training={training}
          others={(query.data ?? []).filter((t) => t.id !== training.id && t.has_model)}
          otherId={otherId}
          onCompare={setOtherId}
          lead={lead}
          busy={run.busy}
          onRun={ask}
          acts={!training.live && !training.in_use && <ResourceActs resource={trainings} />}
        />
      )}
    </ResourcePlace>
  )
}

function TrainingRow({ training }: { training: TrainingShown }) {
  const best = bestDev(training.epochs)
  const state = training.job ? (STATES[training.job.state] ?? training.job.state) : 'gone'
  return (
    <Box px="2.5" py="1">
      <Flex justify="space-between" gap="2">
        <Box truncate fontWeight="bold">
          {training.name}
        </Box>
        <Box fontWeight="bold" fontVariantNumeric="tabular-nums">
          {best === undefined ? '' : score(best)}
        </Box>
      </Flex>
      <Box fontSize="small" color={training.can_repeat ? 'bad' : 'second'}>
        {training.has_model ? moment(training.job?.finished_at ?? training.created_at) : state}
        {training.in_use && ' · in use'}
      </Box>
    </Box>
  )
}

interface SheetProps {
  training: TrainingShown
  others: readonly TrainingShown[]
  otherId: number | null
  onCompare: (id: number | null) => void
  lead: boolean
  /** Something was just asked for. */
  busy: boolean
  onRun: (act: keyof typeof acts) => void
  acts: ReactNode
}

function Sheet({ training, others, otherId, onCompare, lead, busy, onRun, acts: more }: SheetProps) {
  const other = others.find((t) => t.id === otherId)
  const { job, epochs, made_from: made } = training
  const last = epochs.at(-1)
  return (
    <Box px="6" pt="4" pb="8">
      <Title
        side={
          lead && (
            <>
              {training.live && (
                <BadAct loading={busy} onClick={() => onRun('stop')}>
                  stop and save the best
                </BadAct>
              )}
              {training.can_repeat && (
                <Act loading={busy} onClick={() => onRun('again')}>
                  run again
                </Act>
              )}
              {training.has_model && !training.in_use && (
                <Act loading={busy} onClick={() => onRun('use')}>
                  put to use
                </Act>
              )}
              {more}
            </>
          )
        }
      >
        {training.name}
      </Title>
      <Box mb="2" color={training.can_repeat ? 'bad' : 'second'} role="status">
        {job ? (STATES[job.state] ?? job.state) : 'no longer running'}
        {training.live && job && job.total > 0 && ` · epoch ${job.done} of at most ${job.total}${timeLeft(job)}`}
        {job?.message && ` · ${job.message}`}
        {training.in_use && ' · in use: it gives the tagger lane'}
      </Box>
      {training.live && job && <Meter done={job.done} all={job.total} label="epochs" />}
      {epochs.length > 0 ? (
        <Curve epochs={epochs} most={training.live ? training.settings.epochs : epochs.length} />
      ) : (
        <Box color="second" py="6">
          The curves of train and dev F1 begin with the first epoch.
        </Box>
      )}
      {training.has_model && (
        <>
          <ByType training={training} other={other} />
          <Compare training={training} others={others} other={other} onChoose={onCompare} />
        </>
      )}
      <Section>
        <Flex gap="12" wrap="wrap">
          <Box minW="60">
            <Heading>Learns from</Heading>
            <Facts
              facts={[
                ['texts', made.train_texts == null ? '–' : number(made.train_texts)],
                ['signed sentences', made.train_sentences == null ? '–' : number(made.train_sentences)],
                ...(made.lists_sentences
                  ? ([
                      ['unsigned sentences, as lists see them', number(made.lists_sentences)],
                      ['counting as so many signed ones', number(Math.round(made.lists_worth ?? 0))],
                    ] as [string, string][])
                  : []),
                ['spans', made.spans == null ? '–' : number(made.spans)],
                ['unsigned texts, for word classes', made.unsigned_texts == null ? '–' : number(made.unsigned_texts)],
                ['attributes of words', made.attributes == null ? '–' : number(made.attributes)],
                ['features of single words', made.token_features == null ? '–' : number(made.token_features)],
                ['dev sentences', made.dev_sentences == null ? '–' : number(made.dev_sentences)],
              ]}
            />
          </Box>
          <Box minW="60">
            <Heading>Result</Heading>
            <Facts
              facts={[
                ['best epoch', made.best_epoch == null ? '–' : number(made.best_epoch)],
                ['dev F1', score(bestDev(epochs))],
                ['train F1 at the end', score(last?.train_f1)],
                ['objective per sentence', last ? last.objective.toFixed(3) : '–'],
                ['data', made.data ? <code title={made.data}>{made.data.slice(0, 10)}</code> : '–'],
              ]}
            />
          </Box>
        </Flex>
      </Section>
      {training.changes.length > 0 && (
        <Section>
          <Box color="second">Since it was made, {training.changes.join('; ')}.</Box>
        </Section>
      )}
      {made.dev_sentences === 0 && (
        <Section>
          <Box color="second">
            No sentence of the dev split was signed, so nothing tells which epoch is best: the last one was saved.
          </Box>
        </Section>
      )}
    </Box>
  )
}
