import { Box, Grid } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { memo, type ReactNode, useCallback, useDeferredValue, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'

import { useProject } from '../../api/project'
import { CodePoints } from '../../api/offsets'
import type { DeskSentenceShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { useKeys } from '../../parts/keys'
import { useLatest } from '../../parts/useLatest'
import { Columns, Section } from '../../parts/layout'
import { tell } from '../../parts/notes'
import { stepped } from '../../parts/RowList'
import { differences, type StaveSpan } from '../../stave/layout'
import { Stave } from '../../stave/Stave'
import { Alike } from './Alike'
import { Definition } from './Definition'
import { deskKeys } from './deskKeys'
import { DeskRight } from './DeskRight'
import { type MarkedSpan, neighbour, nextGap, nextRun, nextWord, overlaps, sameSpan, tokensOf, undisputed } from './edits'
import { Elsewhere } from './Elsewhere'
import { History } from './History'
import { LANES } from './lanes'
import { LaneSwitches } from './LaneSwitches'
import { Question, QuestionLine } from './Question'
import { sentenceQuery } from './queries'
import { Head } from './SheetHead'
import { type useQueue, useSentence } from './useDesk'
import { type Evidence, useEvidence } from './useEvidence'

const CONTEXT = 700
const SOON = 'Evidence is still being looked up here; a moment.'

interface SheetProps {
  id: number
  queue: ReturnType<typeof useQueue>
  left: ReactNode
  onRead: () => void
}

/** One sentence open on the Desk. */
export function Sheet({ id, queue, left, onRead }: SheetProps) {
  const { items } = queue
  const project = useProject()
  const client = useQueryClient()
  const desk = useSentence(id, queue)
  const { sentence, standing, selection, setSelection, types } = desk
  const [open, setOpen] = useState<'history' | 'question' | 'alike' | null>(null)

  // A sentence is read from its beginning, wherever the one before was left.
  const paper = useRef<HTMLDivElement>(null)
  useLayoutEffect(() => {
    paper.current?.closest('main')?.scrollTo(0, 0)
  }, [id])

  const next = stepped(items, (item) => item.id, id, 1)
  // Where signing leads to is fetched ahead, so that nobody waits for it.
  const ahead = useMemo(() => {
    const at = items.findIndex((item) => item.id === id)
    return at < 0 ? undefined : items.slice(at + 1).find((item) => item.state !== 'signed')?.id
  }, [items, id])
  useEffect(() => {
    for (const number of new Set([next?.id, ahead]))
      if (number !== undefined && number !== id) client.query(sentenceQuery(project, number)).catch(() => undefined)
  }, [client, project, next, ahead, id])

  const hues = useMemo(() => new Map(types.map((t) => [t.code, t.hue])), [types])
  const { evidence, resolved, lanes, differing, isDown } = useEvidence(sentence, standing)
  const { spans, turnedDown } = standing
  const { range } = desk
  const here = useMemo(() => (range ? evidence.filter((span) => overlaps(span, range)) : []), [evidence, range])

  const last = (sentence?.tokens.length ?? 1) - 1
  const goToToken = (token: number, widen: boolean) => {
    const head = Math.max(0, Math.min(last, token))
    setSelection({ anchor: widen ? selection.anchor : head, head })
  }
  const step = (by: number, widen: boolean) => goToToken(selection.head + by, widen)
  const wordsOf = ({ words, start, tokens }: DeskSentenceShown) => {
    const points = new CodePoints(words, start)
    return tokens.map((token) => points.slice(token.start, token.end))
  }
  const stepWord = (by: 1 | -1) => {
    if (sentence) goToToken(nextWord(wordsOf(sentence), selection.head, by), false)
  }
  const stepRun = (by: 1 | -1) => {
    if (!sentence) return
    const words = wordsOf(sentence)
    const { anchor, head } = selection
    const [from, to] = nextRun(words, Math.min(anchor, head), Math.max(anchor, head), by)
    setSelection({ anchor: from, head: to })
  }
  /** Narrow or widen the selection's end by one sign, also within a token. */
  const stepSign = (by: 1 | -1) => {
    if (!sentence || !range) return
    const end = range.end + by
    if (end > range.start && end <= sentence.end) setSelection({ ...selection, within: { start: range.start, end } })
  }
  const select = useCallback(
    (span: StaveSpan) => {
      const place = sentence && tokensOf(sentence.tokens, span)
      if (place) setSelection({ anchor: place[0], head: place[1] })
    },
    [sentence, setSelection],
  )
  // What the sources come to goes before what one of them says.
  const best = here.find((span) => resolved.some((other) => sameSpan(other, span))) ?? here.find((span) => !isDown(span)) ?? here[0]
  const onBest = (act: (span: Evidence) => void) => {
    if (best) act(best)
    else tell(desk.isBare ? SOON : 'There is no evidence under the cursor.')
  }
  /** To the first place after `from` where gold, as it is to be, and evidence differ; stays where there is none. */
  const onToGap = (gold: readonly MarkedSpan[], from: number) => {
    const following = neighbour(differences(gold, resolved), from, 1)
    if (following) select(following)
    return following !== undefined
  }
  const takeBest = () =>
    onBest((span) => {
      const gold = desk.take([span], evidence)
      if (gold) onToGap(gold, span.start)
    })
  const takeUndisputed = (): readonly MarkedSpan[] | undefined => {
    const found = undisputed(resolved, LANES.map(([name]) => evidence.filter((span) => span.lane === name)), spans, turnedDown)
    return found.length > 0 ? desk.take(found, evidence) : undefined
  }
  const takeAll = () => {
    const gold = takeUndisputed()
    if (gold) onToGap(gold, -1)
    else tell(desk.isBare ? SOON : 'No evidence is left here on which all sources agree.')
  }
  /** Take all undisputed and sign, unless something is left to be looked at. */
  const takeAndSign = () => {
    const gold = takeUndisputed() ?? spans
    if (desk.isBare) tell(SOON)
    else if (onToGap(gold, -1)) tell('Here gold and evidence differ: look at that before you sign.')
    else desk.sign(gold)
  }
  const gap = () => {
    const from = sentence?.tokens[Math.min(selection.anchor, selection.head)]?.start ?? 0
    // Where gold is what the sources come to, a single one may still say otherwise.
    const apart = evidence.filter((span) => !isDown(span) && !spans.some((s) => sameSpan(s, span)))
    const found = nextGap(differing.length > 0 ? differing : apart, from)
    if (found) select(found)
    else tell(sentence?.quiet ?? (desk.isBare ? SOON : 'Gold and every source agree here.'))
  }
  const stepSpan = (by: 1 | -1) => {
    const found = range && neighbour([...spans, ...evidence], range.start, by)
    if (found) select(found)
    else tell(by > 0 ? 'No span or evidence follows here.' : 'No span or evidence stands before this.')
  }
  const ask = () => setOpen('question')
  const { under } = desk
  const alike = () => {
    if (sentence?.quiet) tell(sentence.quiet)
    else if (under) setOpen('alike')
    else tell('Mark the words here first, then all like them.')
  }

  useKeys(
    deskKeys(
      {
        ...desk,
        step, stepWord, stepRun, stepSign, stepSpan, gap, takeAll, takeAndSign, alike, ask,
        stepSentence: (by) => desk.goTo(stepped(items, (item) => item.id, id, by)),
        toFirst: () => goToToken(0, false),
        toLast: () => goToToken(last, false),
        take: takeBest,
        turnDown: () => onBest((span) => desk.turnDown(span, evidence)),
        sign: () => desk.sign(),
        read: onRead,
      },
      types,
    ),
  )

  const unsign = useLatest(desk.unsign)
  const read = useLatest(onRead)
  const undo = useLatest(desk.undo)
  const markAlike = useLatest(alike)
  // Moving the cursor does not wait for this.
  const later = useDeferredValue(range)
  const laterCode = useDeferredValue(under?.type ?? best?.type)
  const laterAlike = useDeferredValue(under ? markAlike : undefined)
  const words = sentence && range ? new CodePoints(sentence.words, sentence.start).slice(range.start, range.end) : ''
  const draw = (shown: DeskSentenceShown) => (
      <Box ref={paper} px="6" pt="4" pb="8">
        <Head shown={shown} state={standing.state} spans={spans.length} onUnsign={unsign} onOpen={setOpen} onRead={read} onUndo={undo} />
        {standing.question && <QuestionLine standing={standing} onOpen={ask} />}
        <Context words={shown.before.slice(-CONTEXT)} cut={shown.before.length > CONTEXT} />
        <Stave
          words={shown.words}
          start={shown.start}
          tokens={shown.tokens}
          lanes={lanes}
          differing={differing}
          hues={hues}
          selection={selection}
          onSelect={setSelection}
          onSpan={select}
          onBound={desk.bounds}
        />
        <Box color="second" fontSize="small" ml="laneLabel" mb="4">
          {shown.quiet ?? (desk.isBare ? 'Evidence is being looked up…' : <LaneSwitches />)}
        </Box>
        <Context words={shown.after.slice(0, CONTEXT)} />
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
            onMark={desk.markAs}
            onTake={(span) => desk.take([span], evidence)}
            onTurnDown={(span) => desk.turnDown(span, evidence)}
          />
        )
      }
    >
      {sentence ? draw(sentence) : <Ask query={desk.query}>{draw}</Ask>}
      {open === 'history' && <History sentence={id} hues={hues} onClose={() => setOpen(null)} />}
      {open === 'alike' && sentence && under && (
        <Alike
          sentence={id}
          span={under}
          words={new CodePoints(sentence.words, sentence.start).slice(under.start, under.end)}
          hues={hues}
          onClose={() => setOpen(null)}
        />
      )}
      {open === 'question' && <Question standing={standing} onAsk={desk.ask} onAnswer={desk.answer} onClose={() => setOpen(null)} />}
    </Columns>
  )
}

// What does not change with a key is not drawn again with it.
const Context = memo(function Context({ words, cut = false }: { words: string; cut?: boolean }) {
  const text = words.trim()
  if (!text) return null
  return (
    <div className="context">
      {cut && '… '}
      {text}
    </div>
  )
})
