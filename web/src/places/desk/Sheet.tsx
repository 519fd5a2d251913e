import { Box, Grid } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { memo, type ReactNode, useCallback, useDeferredValue, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'

import { useLanguage, useProject } from '../../api/project'
import { CodePoints } from '../../api/offsets'
import type { DeskSentenceShown } from '../../api/schema'
import { type Bounds, partsOf, WithAside } from '../../parts/aside'
import { Ask } from '../../parts/Ask'
import { useKeys } from '../../parts/keys'
import { later as comesLater } from '../../parts/later'
import { useLatest } from '../../parts/useLatest'
import { Columns, Section } from '../../parts/layout'
import { tell } from '../../parts/notes'
import { stepped } from '../../parts/RowList'
import { Stave } from '../../stave/Stave'
import { Definition } from './Definition'
import { deskKeys } from './deskKeys'
import { DeskRight } from './DeskRight'
import { overlaps, type Range, spanAt } from './edits'
import { Elsewhere } from './Elsewhere'
import { bestOf, evidenceAt } from './evidence'
import { LaneSwitches } from './LaneSwitches'
import { QuestionLine } from './QuestionLine'
import { sentenceQuery } from './queries'
import { Head } from './SheetHead'
import { Spoken } from './Spoken'
import { useDesk } from './useDesk'
import { useEvidence } from './useEvidence'
import type { Queue } from './useQueue'

const Alike = comesLater(async () => (await import('./Alike')).Alike)
const History = comesLater(async () => (await import('./History')).History)
const Question = comesLater(async () => (await import('./Question')).Question)

const CONTEXT = 700

interface SheetProps {
  id: number
  queue: Queue
  left: ReactNode
  onRead: () => void
}

/** One sentence open on the Desk. */
export function Sheet({ id, queue, left, onRead }: SheetProps) {
  const { items } = queue
  const project = useProject()
  const client = useQueryClient()
  const lang = useLanguage()
  const desk = useDesk(id, queue)
  const { sentence, isBare, standing, selection, range, under, types, session } = desk
  const [open, setOpen] = useState<{ what: 'history' | 'question' | 'alike'; sentence: number } | null>(null)
  // A window belongs to the sentence that it was opened for.
  const opened = open?.sentence === id ? open.what : null
  const openHere = useCallback((what: 'history' | 'question' | 'alike') => setOpen({ what, sentence: id }), [id])
  const close = () => setOpen(null)

  // A sentence is read from the start, wherever the one before was left.
  const paper = useRef<HTMLDivElement>(null)
  useLayoutEffect(() => {
    paper.current?.closest('main')?.scrollTo(0, 0)
  }, [id])

  const next = stepped(items, (item) => item.id, id, 1)
  const { ahead } = desk
  // Where signing leads to is fetched ahead, so that nobody waits for it.
  useEffect(() => {
    for (const number of new Set([next?.id, ahead]))
      if (number !== undefined && number !== id) client.query(sentenceQuery(project, number)).catch(() => undefined)
  }, [client, project, next, ahead, id])

  const hues = useMemo(() => new Map(types.map((t) => [t.code, t.hue])), [types])
  const { evidence, resolved, lanes, differing, isDown } = useEvidence(sentence, standing)
  const [pointed, setPointed] = useState<{ sentence: number; span: Range } | null>(null)
  const hover = useCallback((span: Range | null) => setPointed(span && { sentence: id, span }), [id])
  // What the pointer is on is explained before what the cursor is on.
  const explained = pointed?.sentence === id ? pointed.span : range
  const here = useMemo(() => evidenceAt({ evidence }, explained), [evidence, explained])
  const best = bestOf(evidenceAt({ evidence }, range), { resolved, isDown })

  const alike = () => {
    if (sentence?.quiet) tell(sentence.quiet)
    else if (under) openHere('alike')
    else tell('Mark the words here first, then all like them.')
  }
  const ask = () => openHere('question')
  useKeys(
    deskKeys(
      session,
      {
        undo: desk.undo,
        redo: desk.redo,
        stepSentence: (by) => desk.goTo(stepped(items, (item) => item.id, id, by)),
        read: onRead,
        alike,
        ask,
      },
      types,
    ),
  )

  const read = useLatest(onRead)
  const undo = useLatest(desk.undo)
  const markAlike = useLatest(alike)
  // Moving the cursor does not wait for this.
  const later = useDeferredValue(range)
  const laterHere = useMemo(() => evidenceAt({ evidence }, later), [evidence, later])
  const laterCode = useDeferredValue(under?.type ?? best?.type)
  const laterAlike = useDeferredValue(under ? markAlike : undefined)
  const words = sentence && explained ? new CodePoints(sentence.words, sentence.start).slice(explained.start, explained.end) : ''
  const draw = (shown: DeskSentenceShown) => (
    <Box ref={paper} px="6" pt="4" pb="8">
      <Head shown={shown} state={standing.state} spans={standing.spans.length} onUnsign={session.withdraw} onOpen={openHere} onRead={read} onUndo={undo} />
      <Spoken
        words={later ? new CodePoints(shown.words, shown.start).slice(later.start, later.end) : ''}
        gold={later && spanAt(standing.spans, later)}
        evidence={laterHere}
        differs={later !== undefined && differing.some((span) => overlaps(span, later))}
      />
      {standing.question && <QuestionLine standing={standing} onOpen={ask} />}
      <Context words={shown.before} ends={shown.start} aside={shown.aside} />
      <Stave
        words={shown.words}
        start={shown.start}
        tokens={shown.tokens}
        lang={lang}
        lanes={lanes}
        differing={differing}
        hues={hues}
        selection={selection}
        onSelect={session.select}
        onSpan={session.show}
        onBound={session.bounds}
        onHover={hover}
        focus={under ?? best}
      />
      <Box color="second" fontSize="small" ml="laneLabel" mb="4">
        {shown.quiet ?? (isBare ? 'Looking up evidence…' : <LaneSwitches weighsFrom={shown.weighs_from} more={'pipeline' in shown.lanes} />)}
      </Box>
      <Context words={shown.after} begins={shown.end} aside={shown.aside} />
      <Section>
        <Grid templateColumns="1fr 1fr" gap="6" ml="laneLabel" maxW="4xl">
          {!shown.quiet && later && <Elsewhere sentence={shown} range={later} hues={hues} onAlike={laterAlike} />}
          <Definition types={types} code={laterCode} />
        </Grid>
      </Section>
    </Box>
  )
  return (
    <Columns
      left={left}
      right={
        sentence && (
          <DeskRight
            types={types}
            sentence={sentence}
            words={words}
            evidence={here}
            isDown={isDown}
            onMark={session.markAs}
            onTake={session.takeSpan}
            onTurnDown={session.turnDownSpan}
          />
        )
      }
    >
      {sentence ? draw(sentence) : <Ask query={desk.query}>{draw}</Ask>}
      {opened === 'history' && <History sentence={id} hues={hues} onClose={close} />}
      {opened === 'alike' && sentence && under && (
        <Alike
          sentence={id}
          span={under}
          words={new CodePoints(sentence.words, sentence.start).slice(under.start, under.end)}
          hues={hues}
          onClose={close}
        />
      )}
      {opened === 'question' && <Question standing={standing} onAsk={session.ask} onAnswer={session.answer} onClose={close} />}
    </Columns>
  )
}

// What does not change with a key is not drawn again with it.
interface ContextProps {
  words: string
  /** Where the words begin in the body, or where they end, in code points. */
  begins?: number
  ends?: number
  aside: readonly Bounds[]
}

const Context = memo(function Context({ words, begins, ends, aside }: ContextProps) {
  const signs = Array.from(words)
  const near = begins === undefined ? signs.slice(-CONTEXT) : signs.slice(0, CONTEXT)
  const blank = near.findIndex((sign) => sign.trim() !== '')
  if (blank < 0) return null
  const from = (begins ?? (ends ?? 0) - near.length) + blank
  const parts = partsOf(near.slice(blank).join('').trimEnd(), aside, from)
  return (
    <div className="context">
      {begins === undefined && signs.length > CONTEXT && '… '}
      <WithAside parts={parts} />
    </div>
  )
})
