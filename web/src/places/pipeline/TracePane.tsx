import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'

import { CodePoints } from '../../api/offsets'
import { useLanguage, useProject } from '../../api/project'
import type { PipelinePlan, SpanShown, TraceSentenceShown, TraceShown, TraceStepShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { LinkAct, TextField } from '../../parts/controls'
import { Fold } from '../../parts/Fold'
import { useSettled } from '../../parts/useSettled'
import { score } from '../../parts/words'
import { otherLane, staveSpans, type Lane, type StaveSpan } from '../../stave/span'
import { Stave } from '../../stave/Stave'
import { Weighed } from '../../stave/Weighed'
import { type Traced, traceQuery, weighQuery } from './queries'

/** What was traced last; stays while one is elsewhere. */
const words = new Map<string, string>()

interface TracePaneProps {
  plan: PipelinePlan
  /** Words to begin with. */
  begin: string
  barred: boolean
}

/**
 * Pasted words, or the sentence that the address names, and what every stage does in them: one lane for each. Nothing is traced
 * while the stages cannot run.
 */
export function TracePane(props: TracePaneProps) {
  const id = Number(useParams().id)
  const navigate = useNavigate()
  const project = useProject()
  if (id > 0) return <OfSentence {...props} sentence={id} onLeave={() => void navigate(`/p/${project}/pipeline`)} />
  return <OfWords {...props} />
}

interface OfSentenceProps extends TracePaneProps {
  sentence: number
  onLeave: () => void
}

/** A sentence of the project, which is read with the texts of its group. */
function OfSentence({ plan, barred, sentence, onLeave }: OfSentenceProps) {
  const project = useProject()
  const settled = useSettled(plan)
  const traced: Traced = { words: '', sentence }
  const query = useQuery({ ...traceQuery(project, settled, traced), enabled: !barred })
  return (
    <Box role="region" aria-label="traced sentence">
      <Flex gap="3" align="baseline" mb="3">
        <Box fontWeight="bold">Traced as it stands in its text</Box>
        <Link to={`/p/${project}/desk/${sentence}`}>at the Desk</Link>
        <LinkAct onClick={onLeave}>trace other words</LinkAct>
      </Flex>
      {barred ? <Barred /> : <Ask query={query}>{(trace) => <Trace trace={trace} plan={settled} traced={traced} />}</Ask>}
    </Box>
  )
}

const Barred = () => <Box color="second">Once the stages can run, the trace goes on.</Box>

function OfWords({ plan, begin, barred }: TracePaneProps) {
  const project = useProject()
  const [typed, setTyped] = useState<string | undefined>(words.get(project))
  const text = typed ?? begin
  const asked = useSettled({ plan, text })
  const traced: Traced = { words: asked.text, sentence: null }
  const query = useQuery({ ...traceQuery(project, asked.plan, traced), enabled: asked.text.trim() !== '' && !barred })
  const put = (value: string) => {
    words.set(project, value)
    setTyped(value)
  }
  return (
    <Box>
      <TextField label="trace a sentence" lines={2} serif value={text} onChange={put} help="Paste any words: a lane shows what each stage has left, and what it did is told beneath." />
      {text.trim() !== '' && (
        <Box mt="3">
          {barred ? <Barred /> : <Ask query={query}>{(trace) => <Trace trace={trace} plan={asked.plan} traced={traced} />}</Ask>}
        </Box>
      )}
    </Box>
  )
}

interface TraceProps {
  trace: TraceShown
  plan: PipelinePlan
  traced: Traced
}

function Trace({ trace, plan, traced }: TraceProps) {
  return (
    <>
      {trace.sentences.map((sentence) => (
        <Box key={sentence.start} mb="3">
          <Sentence sentence={sentence} steps={trace.steps} />
        </Box>
      ))}
      <Fold title="what each stage did, and why" open>
        {trace.steps.map((step) =>
          step.kind === '' && plan.policy.kind === 'weighed' ? (
            <WhatSpeaks key="in the end" step={step} sentences={trace.sentences} plan={plan} traced={traced} />
          ) : (
            <Done key={`${step.kind} ${step.name}`} step={step} sentences={trace.sentences} />
          ),
        )}
      </Fold>
    </>
  )
}

function Sentence({ sentence, steps }: { sentence: TraceSentenceShown; steps: readonly TraceStepShown[] }) {
  const { hues } = useScheme()
  const lanes = useMemo(() => steps.map((step) => laneOf(step, sentence)), [steps, sentence])
  return <Stave words={sentence.words} start={sentence.start} tokens={sentence.tokens} lang={useLanguage()} lanes={lanes} hues={hues} />
}

const inside = (span: { start: number; end: number }, { start, end }: TraceSentenceShown) => start <= span.start && span.end <= end
const same = (one: { start: number; end: number; type: string }, other: { start: number; end: number; type: string }) =>
  one.start === other.start && one.end === other.end && one.type === other.type

/**
 * The spans that a stage has left, and hollow ones for those that it took away or held back. Of several that say the same the
 * last one is shown.
 */
function laneOf(step: TraceStepShown, sentence: TraceSentenceShown): Lane {
  const here = step.changes.filter(({ span }) => inside(span, sentence))
  const added = here.filter(({ what }) => what === 'added')
  const own = step.after.filter((span) => inside(span, sentence))
  const last = own.filter((span, k) => !own.slice(k + 1).some((other) => same(other, span)))
  const kept = staveSpans(last).map((span, k): StaveSpan => {
    const isNew = added.some((one) => same(one.span, span) && one.span.source === last[k]?.source)
    return isNew ? { ...span, change: 'added' } : span
  })
  const gone = here
    .filter(({ what, span }) => (what === 'dropped' || what === 'refused') && !last.some((other) => same(other, span)))
    .map(({ what, span, why }, k): StaveSpan => ({ ...span, id: `${what}-${k}`, why, change: what === 'dropped' ? 'removed' : 'beaten' }))
  const lane = otherLane(`${step.kind} ${step.name}`, step.kind === '' ? 'in the end' : step.name, [])
  return { ...lane, spans: [...kept, ...gone.filter((span, k) => !gone.slice(0, k).some((other) => same(other, span)))] }
}

const DID = { added: 'added', changed: 'changed', dropped: 'dropped', refused: 'held back' }

function wordsOf(sentences: readonly TraceSentenceShown[], { start, end }: { start: number; end: number }): string {
  const sentence = sentences.find((one) => one.start <= start && end <= one.end)
  return sentence ? new CodePoints(sentence.words, sentence.start).slice(start, end) : ''
}

interface WhatSpeaksProps {
  step: TraceStepShown
  sentences: readonly TraceSentenceShown[]
  plan: PipelinePlan
  traced: Traced
}

/** Of every span that was weighed how likely it came out, and what speaks for it. */
function WhatSpeaks({ step, sentences, plan, traced }: WhatSpeaksProps) {
  const [asked, setAsked] = useState<string | null>(null)
  const dropped = step.changes.filter(({ what }) => what === 'dropped')
  const every = [...step.after, ...dropped.map(({ span }) => span)].filter((span, k, all) => all.findIndex((other) => same(span, other)) === k)
  every.sort((one, other) => one.start - other.start || one.end - other.end)
  const whyNot = (span: SpanShown) => dropped.find((one) => same(one.span, span))?.why
  return (
    <Box role="group" aria-label="what was weighed">
      <Box fontWeight="bold">in the end</Box>
      {step.troubles.map((trouble) => (
        <Box key={trouble} color="bad">
          {trouble}
        </Box>
      ))}
      {every.length === 0 && <Box color="second">There is nothing to weigh here.</Box>}
      {every.map((span) => {
        const key = `${span.start} ${span.end} ${span.type}`
        const stands = step.after.some((other) => same(span, other))
        return (
          <Box key={key}>
            <Flex gap="2">
              <Box w="16" color="second" flexShrink="0">
                {stands ? 'stands' : 'dropped'}
              </Box>
              <Box>
                {span.type} “{wordsOf(sentences, span)}”
                <Box as="span" color="second">{stands ? ` · ${score(span.probability)} %` : ` · ${whyNot(span) ?? ''}`}</Box>{' '}
                <LinkAct aria-expanded={asked === key} aria-label={`what speaks for ${span.type} “${wordsOf(sentences, span)}”`} onClick={() => setAsked(asked === key ? null : key)}>
                  what speaks for it
                </LinkAct>
              </Box>
            </Flex>
            {asked === key && <Spoken plan={plan} traced={traced} span={span} />}
          </Box>
        )
      })}
    </Box>
  )
}

function Spoken({ plan, traced, span }: { plan: PipelinePlan; traced: Traced; span: SpanShown }) {
  const { hues } = useScheme()
  return (
    <Box ml="18" maxW="md">
      <Weighed query={useQuery(weighQuery(useProject(), plan, traced, span))} type={span.type} hue={hues.get(span.type)} />
    </Box>
  )
}

function Done({ step, sentences }: { step: TraceStepShown; sentences: readonly TraceSentenceShown[] }) {
  return (
    <Box mb="2">
      <Box fontWeight="bold">{step.kind === '' ? 'in the end' : step.name}</Box>
      {step.troubles.map((trouble) => (
        <Box key={trouble} color="bad">
          {trouble}
        </Box>
      ))}
      {step.changes.length === 0 && <Box color="second">does nothing here</Box>}
      {step.changes.map(({ what, span, why }, k) => (
        <Flex key={k} gap="2">
          <Box w="16" color="second" flexShrink="0">
            {DID[what]}
          </Box>
          <Box>
            {span.type} “{wordsOf(sentences, span)}”{why && <Box as="span" color="second">{` · ${why}`}</Box>}
          </Box>
        </Flex>
      ))}
    </Box>
  )
}
