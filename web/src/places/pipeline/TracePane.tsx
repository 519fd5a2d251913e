import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'

import { CodePoints } from '../../api/offsets'
import { useLanguage, useProject } from '../../api/project'
import type { PipelinePlan, TraceSentenceShown, TraceShown, TraceStepShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { TextField } from '../../parts/controls'
import { Fold } from '../../parts/Fold'
import { useSettled } from '../../parts/useSettled'
import { otherLane, staveSpans, type Lane, type StaveSpan } from '../../stave/span'
import { Stave } from '../../stave/Stave'
import { traceQuery } from './queries'

/** What was traced last; stays while one is elsewhere. */
const words = new Map<string, string>()

/** Pasted words, and what every stage does in them: one lane for each. Nothing is traced while the stages cannot run. */
export function TracePane({ plan, begin, barred }: { plan: PipelinePlan; begin: string; barred: boolean }) {
  const project = useProject()
  const [typed, setTyped] = useState<string | undefined>(words.get(project))
  const text = typed ?? begin
  const asked = useSettled({ plan, text })
  const query = useQuery({ ...traceQuery(project, asked.plan, asked.text), enabled: asked.text.trim() !== '' && !barred })
  const put = (value: string) => {
    words.set(project, value)
    setTyped(value)
  }
  return (
    <Box>
      <TextField label="trace a sentence" lines={2} serif value={text} onChange={put} help="Paste any words: a lane shows what each stage has left, and what it did is told beneath." />
      {text.trim() !== '' && (
        <Box mt="3">
          {barred ? <Box color="second">Once the stages can run, the trace goes on.</Box> : <Ask query={query}>{(trace) => <Trace trace={trace} />}</Ask>}
        </Box>
      )}
    </Box>
  )
}

function Trace({ trace }: { trace: TraceShown }) {
  return (
    <>
      {trace.sentences.map((sentence) => (
        <Box key={sentence.start} mb="3">
          <Traced sentence={sentence} steps={trace.steps} />
        </Box>
      ))}
      <Fold title="what each stage did, and why" open>
        {trace.steps.map((step) => (
          <Done key={`${step.kind} ${step.name}`} step={step} sentences={trace.sentences} />
        ))}
      </Fold>
    </>
  )
}

function Traced({ sentence, steps }: { sentence: TraceSentenceShown; steps: readonly TraceStepShown[] }) {
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

function Done({ step, sentences }: { step: TraceStepShown; sentences: readonly TraceSentenceShown[] }) {
  const wordsOf = (start: number, end: number) => {
    const sentence = sentences.find((one) => one.start <= start && end <= one.end)
    return sentence ? new CodePoints(sentence.words, sentence.start).slice(start, end) : ''
  }
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
            {span.type} “{wordsOf(span.start, span.end)}”{why && <Box as="span" color="second">{` · ${why}`}</Box>}
          </Box>
        </Flex>
      ))}
    </Box>
  )
}
