import { Box, Flex } from '@chakra-ui/react'
import type { InfiniteData, UseInfiniteQueryResult } from '@tanstack/react-query'
import { Fragment, type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'

import { useLanguage, useProject } from '../api/project'
import type { SpanShown, StavePage, StaveShown } from '../api/schema'
import { Ask } from '../parts/Ask'
import { LinkAct } from '../parts/controls'
import { Unfetched } from '../parts/RowList'
import { type Rest, usePages } from '../parts/usePages'
import { plural } from '../parts/words'
import { differences, goldLane, type Lane, otherLane, type Range, type StaveSpan } from './span'
import { Stave } from './Stave'

export type Differing = (gold: readonly StaveSpan[], found: readonly StaveSpan[]) => readonly Range[]

export interface StaveListProps {
  page: Pick<StavePage, 'total' | 'staves'>
  /** Lanes to show, in order: name on the wire, label on the screen. The first named "gold" has the gold ground. */
  lanes: readonly (readonly [string, string])[]
  hues: ReadonlyMap<string, number>
  empty: string
  /** Where the sentences come in pages: how the next one comes. */
  rest?: Rest
  /** What is said of a span of the last lane, for whoever asks why. */
  why?: ((stave: StaveShown, span: SpanShown) => ReactNode) | undefined
  /** Where a signed sentence differs, if not where the second lane has what the first has not; the same function each time. */
  differing?: Differing | undefined
}

/** For a question whose answer comes in pages of staves. */
export const stavePages = { initialPageParam: null as number | null, getNextPageParam: (page: StavePage) => page.next }
const stavesOf = (page: StavePage) => page.staves

/** Sentences behind a figure, page by page. */
export function StavePages({ query, ...list }: Omit<StaveListProps, 'page' | 'rest'> & { query: UseInfiniteQueryResult<InfiniteData<StavePage>> }) {
  const { rows = [], rest } = usePages(query, stavesOf)
  return <Ask query={query}>{({ pages }) => <StaveList page={{ total: pages[0]?.total ?? 0, staves: rows as StaveShown[] }} rest={rest} {...list} />}</Ask>
}

// As many as fill some screens; the rest is drawn when the reader comes near it.
const STEP = 40

/** Sentences behind a figure, each a stave with a way to the Desk. */
export function StaveList({ page: { total, staves }, lanes, hues, empty, rest, why, differing }: StaveListProps) {
  // The list begins anew when it begins with another sentence.
  const first = staves[0]?.sentence_id
  const [drawn, setDrawn] = useState({ first, count: STEP })
  const count = drawn.first === first ? drawn.count : STEP
  if (staves.length === 0) return <Box color="second">{empty}</Box>
  const drawMore = () => {
    setDrawn({ first, count: count + STEP })
    if (count + STEP >= staves.length) rest?.more()
  }
  const left = (rest ? total : staves.length) - Math.min(count, staves.length)
  return (
    <Box>
      {staves.slice(0, count).map((stave) => (
        // The browser leaves out what is not seen; the size is a guess until it is.
        <Box key={stave.sentence_id} style={{ contentVisibility: 'auto', containIntrinsicSize: 'auto 120px' }} mb="1">
          <OneStave stave={stave} lanes={lanes} hues={hues} why={why} differing={differing} />
        </Box>
      ))}
      {left > 0 && rest?.fault == null && <More key={Math.min(count, staves.length)} left={left} onMore={drawMore} />}
      {rest && <Unfetched rest={rest} />}
      {!rest && staves.length <= count && total > staves.length && (
        <Box color="second">
          The first {staves.length} of {plural(total, 'sentence')}.
        </Box>
      )}
    </Box>
  )
}

/** Draws on by itself when it comes into view; a button for those who do not scroll. */
function More({ left, onMore }: { left: number; onMore: () => void }) {
  const box = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (!box.current) return undefined
    const watcher = new IntersectionObserver((entries) => entries.some((e) => e.isIntersecting) && onMore(), { rootMargin: '600px' })
    watcher.observe(box.current)
    return () => watcher.disconnect()
  }, [onMore])
  return (
    <Box ref={box} py="2">
      <LinkAct onClick={onMore}>{plural(left, 'sentence')} more</LinkAct>
    </Box>
  )
}

function OneStave({ stave, lanes, hues, why, differing: chosen }: { stave: StaveShown } & Pick<StaveListProps, 'lanes' | 'hues' | 'why' | 'differing'>) {
  const [asked, setAsked] = useState(false)
  const project = useProject()
  const set = useMemo(
    () =>
      lanes.flatMap(([name, label]): Lane[] => {
        const spans = stave.lanes[name]
        if (!spans || (name === 'gold' && !stave.signed)) return []
        return [name === 'gold' ? goldLane(spans, { label }) : otherLane(name, label, spans)]
      }),
    [stave, lanes],
  )
  const differing = useMemo((): readonly Range[] => {
    const [one, two] = set
    if (!stave.differs || !one || !two) return []
    if (chosen) return chosen(one.spans, two.spans)
    // A list or rule need not find all of gold: only what it finds beyond gold is a difference.
    const partial = two.id === 'lists' || two.id === 'rules'
    const all = differences(one.spans, two.spans)
    return partial ? all.filter((span) => two.spans.includes(span)) : all
  }, [set, stave.differs, chosen])
  const last = stave.lanes[lanes.at(-1)?.[0] ?? ''] ?? []
  const at = differing[0]?.start ?? set.at(-1)?.spans[0]?.start
  return (
    <Box>
      <Flex fontSize="tiny" color="second" gap="2" ml="laneLabel">
        <span>
          {stave.title} · sentence {stave.number + 1}
          {stave.signed ? '' : ' · not signed'}
        </span>
        <Box asChild color="action">
          <Link to={`/p/${project}/desk/${stave.sentence_id}${at === undefined ? '' : `?at=${at}`}`}>at the Desk</Link>
        </Box>
        {why && last.length > 0 && (
          <LinkAct fontSize="tiny" aria-expanded={asked} onClick={() => setAsked(!asked)}>
            {asked ? 'hide why' : 'why'}
          </LinkAct>
        )}
      </Flex>
      <Stave words={stave.words} start={stave.start} tokens={stave.tokens} lang={useLanguage()} lanes={set} differing={differing} hues={hues} />
      {why && asked && (
        <Box ml="laneLabel" mt="1" maxW="3xl">
          {last.map((span) => (
            <Fragment key={`${span.start}-${span.end}-${span.type}`}>{why(stave, span)}</Fragment>
          ))}
        </Box>
      )}
    </Box>
  )
}
