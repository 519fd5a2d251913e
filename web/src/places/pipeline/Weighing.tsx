import { Box, Stack } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'

import { api } from '../../api/client'
import { useProject } from '../../api/project'
import type { PipelinePlan, WeightsShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, CheckField, ChoiceField, QuietAct } from '../../parts/controls'
import { useAct } from '../../parts/useAct'
import { Working, isOver } from '../../parts/Working'
import { moment, plural, score } from '../../parts/words'
import { f1Of, interval } from './figures'
import { ShareField } from './fields'
import { type Policy, withSecondThoughts } from './plan'
import { weightsQuery } from './queries'

interface WeighingProps {
  plan: PipelinePlan
  onChange: (plan: PipelinePlan) => void
  readOnly: boolean
}

/** By what spans are weighed: weights that were learnt, how good they are, and learning others. */
export function Weighing({ plan, onChange, readOnly }: WeighingProps) {
  const query = useQuery(weightsQuery(useProject()))
  return <Ask query={query}>{({ job, weights }) => <Open plan={plan} onChange={onChange} readOnly={readOnly} job={job} weights={weights} />}</Ask>
}

interface OpenProps extends WeighingProps {
  job: Parameters<typeof Working>[0]['job'] | null
  weights: readonly WeightsShown[]
}

function Open({ plan, onChange, readOnly, job, weights }: OpenProps) {
  const { policy } = plan
  const put = (more: Partial<Policy>) => onChange({ ...plan, policy: { ...policy, ...more } })
  const held = weights.find(({ id }) => String(id) === policy.weights)
  const newest = weights[0]
  // Whoever asked for weights wants them, and so does a policy that has none.
  const since = useRef<number | null>(null)
  useEffect(() => {
    const asked = since.current !== null && newest !== undefined && newest.id > since.current
    if (newest === undefined || readOnly || !(asked || policy.weights === '')) return
    since.current = null
    put({ weights: String(newest.id) })
    // Only what is learnt anew changes anything here.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [newest?.id])
  const bare = plan.stages.filter((stage) => stage.kind === 'tagger' && stage.on && stage.settings.also === 0)
  return (
    <Stack gap="3">
      {weights.length > 0 && (
        <ChoiceField
          label="weights"
          value={policy.weights}
          options={[...(held ? [] : [{ value: policy.weights, label: 'none that are there' }]), ...weights.map((one) => ({ value: String(one.id), label: nameOf(one) }))]}
          onChange={(chosen) => put({ weights: chosen })}
        />
      )}
      {held && <Told weights={held} />}
      {held && (
        <Box>
          <ShareField label="least probability" value={policy.least ?? held.least} onChange={(least) => put({ least })} help={policy.least === null ? 'As it was learnt. What is less likely is left out.' : `It was learnt as ${String(held.least)}.`} />
          {policy.least !== null && <QuietAct onClick={() => put({ least: null })}>as it was learnt</QuietAct>}
        </Box>
      )}
      {bare.length > 0 && !readOnly && (
        <Box fontSize="small">
          There is more to weigh where a tagger also says what it did not choose.{' '}
          <QuietAct onClick={() => onChange(withSecondThoughts(plan))}>give it second thoughts</QuietAct>
        </Box>
      )}
      {!readOnly && <Learn plan={plan} job={job} first={weights.length === 0} onBegin={() => (since.current = newest?.id ?? 0)} />}
    </Stack>
  )
}

const nameOf = (weights: WeightsShown) => `${moment(weights.created_at)} · ${weights.sentences === 0 ? 'from a bundle' : `F1 ${score(f1Of(weights.weighed))}`}`

/** How weights did on dev, each text answered by some that had not seen it. */
function Told({ weights }: { weights: WeightsShown }) {
  const { weighed, now, gain } = weights
  if (weights.sentences === 0) return <Box fontSize="small">They came with a bundle. How they do here you see from the figure above the stages.</Box>
  return (
    <Box fontSize="small">
      <b>F1 {score(f1Of(weighed))}</b> on dev by folds, each answered by weights that have not seen it; the pipeline of then {score(f1Of(now))}. Difference {interval(gain)}.
      <Box color="second">
        Learnt from {plural(weights.sentences, 'signed dev sentence')}
        {weights.train_texts > 0 && ` and ${plural(weights.train_texts, 'train text')}`}.
      </Box>
    </Box>
  )
}

interface LearnProps {
  plan: PipelinePlan
  job: OpenProps['job']
  first: boolean
  onBegin: () => void
}

function Learn({ plan, job, first, onBegin }: LearnProps) {
  const project = useProject()
  const [train, setTrain] = useState(false)
  const start = useAct(() => api.POST('/api/projects/{project}/pipeline/weights', { params: { path: { project } }, body: { plan, train } }), { changes: 'jobs', onDone: onBegin })
  const taggers = plan.stages.filter(({ kind, on }) => kind === 'tagger' && on).length
  if (job && !isOver(job)) return <Working job={job} label="learning weights" mayStop />
  return (
    <Box>
      {first && <Box mb="2">No weights have been learnt yet. They are learnt from signed dev sentences: who was right where, beside whom.</Box>}
      <CheckField label="learn from train texts too" checked={train} onChange={setTrain} />
      <Box fontSize="small" color="second" mb="2">
        {taggers > 0 ? 'Taggers are trained anew for that, five times each, so that none is believed for what it has learnt by heart.' : 'There is no tagger here, so that costs little.'}
      </Box>
      <Act loading={start.busy} onClick={() => start.run()}>
        {first ? 'learn weights' : 'learn others'}
      </Act>
      {job && job.state !== 'done' && (
        <Box mt="1" fontSize="small" color="bad" role="alert">
          {job.message}
        </Box>
      )}
    </Box>
  )
}
