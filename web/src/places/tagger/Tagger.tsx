import { Box, Flex } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { invalidate } from '../../api/live'
import { useIsLead, useProject } from '../../api/project'
import type { TrainingShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, BadAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Empty, Heading, Section, Title } from '../../parts/layout'
import { tellError } from '../../parts/notes'
import { RowList } from '../../parts/RowList'
import { Facts, Meter } from '../../parts/signs'
import { usePick } from '../../parts/usePick'
import { Sure } from '../../parts/Window'
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
  const client = useQueryClient()
  const lead = useIsLead()
  const query = useQuery(trainingsQuery(project))
  const { chosen, pick } = usePick('tagger', query.data, 'training')
  const [form, setForm] = useState<'new' | 'like' | 'remove' | null>(null)
  const [otherId, setOtherId] = useState<number | null>(null)
  const run = async (act: keyof typeof acts) => {
    if (!chosen) return
    try {
      await acts[act](project, chosen.id)
      invalidate(client, project, 'tagger')
    } catch (error) {
      tellError(error)
    }
  }
  useKeys(
    lead
      ? [
          { keys: ['n'], caps: ['n'], label: 'new training', run: () => setForm('new') },
          ...(chosen?.live ? [{ keys: ['s'], caps: ['s'], label: 'stop and save the best', run: () => void run('stop') }] : []),
          ...(chosen?.has_model && !chosen.in_use ? [{ keys: ['p'], caps: ['p'], label: 'put to use', run: () => void run('use') }] : []),
        ]
      : [],
  )
  const inUse = query.data?.find((t) => t.in_use)
  const left = (
    <>
      <Box px="3" pt="3">
        <Heading side={<Box fontSize="tiny" color="second">dev F1</Box>}>Trainings</Heading>
      </Box>
      <RowList rows={query.data ?? []} keyOf={(t) => t.id} chosen={chosen?.id ?? null} onChoose={pick} height={46} label="trainings">
        {(training) => <TrainingRow training={training} />}
      </RowList>
      {inUse && inUse.changes.length > 0 && (
        <Box px="3" py="2" color="second" fontSize="small">
          Since the tagger in use was made, {inUse.changes.join('; ')}.
        </Box>
      )}
      <Retraining lead={lead} />
      {lead && (
        <Box p="3" borderTopWidth="1px" borderColor="hairline">
          <Act onClick={() => setForm('new')}>new training</Act>
        </Box>
      )}
    </>
  )
  return (
    <Columns left={left} right={chosen && <Config key={chosen.id} training={chosen} onTakeUp={lead ? () => setForm('like') : undefined} />}>
      <Ask query={query}>
        {() =>
          chosen ? (
            <Sheet
              training={chosen}
              others={(query.data ?? []).filter((t) => t.id !== chosen.id && t.has_model)}
              otherId={otherId}
              onCompare={setOtherId}
              lead={lead} onRun={(act) => void run(act)} onRemove={() => setForm('remove')}
            />
          ) : (
            <Empty act={lead && <Act onClick={() => setForm('new')}>new training</Act>}>
              The tagger learns from signed sentences of the train split; lists and rules are among its features. There is no
              training yet.
            </Empty>
          )
        }
      </Ask>
      {(form === 'new' || form === 'like') && (
        <TrainingForm
          count={query.data?.length ?? 0}
          from={form === 'like' ? chosen?.settings : undefined}
          onClose={() => setForm(null)}
          onDone={pick}
        />
      )}
      {form === 'remove' && chosen && (
        <Sure
          title={`Remove the training “${chosen.name}”?`}
          act="remove"
          onClose={() => setForm(null)}
          onSure={async () => {
            await api.DELETE('/api/projects/{project}/trainings/{training_id}', { params: { path: { project, training_id: chosen.id } } })
            pick(null)
          }}
        >
          Its curves and its tagger go. Scorecards that measured it stay. With the same data, settings and seed it can be
          trained again just so.
        </Sure>
      )}
    </Columns>
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
  onRun: (act: keyof typeof acts) => void
  onRemove: () => void
}

function Sheet({ training, others, otherId, onCompare, lead, onRun, onRemove }: SheetProps) {
  const other = others.find((t) => t.id === otherId)
  const { job, epochs, made_from: made } = training
  const last = epochs.at(-1)
  return (
    <Box px="6" pt="4" pb="8">
      <Title
        side={
          lead && (
            <>
              {training.live && <BadAct onClick={() => onRun('stop')}>stop and save the best</BadAct>}
              {training.can_repeat && <Act onClick={() => onRun('again')}>run again</Act>}
              {training.has_model && !training.in_use && <Act onClick={() => onRun('use')}>put to use</Act>}
              {!training.live && !training.in_use && <QuietAct onClick={onRemove}>remove</QuietAct>}
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
