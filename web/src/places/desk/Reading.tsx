import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { useVirtualizer } from '@tanstack/react-virtual'
import { memo, type ReactNode, useEffect, useMemo, useRef, useState } from 'react'

import { messageOf } from '../../api/client'
import { useLanguage, useProject } from '../../api/project'
import type { DeskSentenceShown, ReadingShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Between } from '../../parts/aside'
import { Ask } from '../../parts/Ask'
import { LinkAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns } from '../../parts/layout'
import { StateSign } from '../../parts/signs'
import { goldLane, type Lane } from '../../stave/span'
import { Stave } from '../../stave/Stave'
import { readingQuery, sentenceQuery } from './queries'

interface ReadingProps {
  id: number
  left: ReactNode
  /** Back to the Desk, with this sentence open. */
  onOpen: (sentence: number) => void
}

/** The text of the open sentence in one scroll, and after it the texts of its group. */
export function Reading({ id, left, onOpen }: ReadingProps) {
  const query = useQuery(sentenceQuery(useProject(), id))
  return (
    <Columns left={left}>
      <Ask query={query}>{(sentence) => <Scroll sentence={sentence} onOpen={onOpen} />}</Ask>
    </Columns>
  )
}

// So many sentences before the open one are there at once; the others come when they are wanted.
const BEFORE = 30
const HEIGHT = 80

function Scroll({ sentence, onOpen }: { sentence: DeskSentenceShown; onOpen: (sentence: number) => void }) {
  const project = useProject()
  const { hues } = useScheme()
  const [from, setFrom] = useState({ text: sentence.text.id, number: Math.max(0, sentence.number - BEFORE) })
  const [chosen, setChosen] = useState(sentence.id)
  const query = useInfiniteQuery(readingQuery(project, from))
  const rows = useMemo(() => query.data?.pages.flatMap((page) => page.sentences) ?? [], [query.data])
  const frame = useRef<HTMLDivElement>(null)
  // eslint-disable-next-line react-hooks/incompatible-library -- the list is not memoised
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => HEIGHT,
    getItemKey: (i) => rows[i]?.stave.sentence_id ?? i,
    overscan: 8,
    scrollPaddingStart: 2 * HEIGHT,
    scrollPaddingEnd: 2 * HEIGHT,
  })
  const at = rows.findIndex((row) => row.stave.sentence_id === chosen)
  const begun = useRef(false)
  useEffect(() => {
    if (at < 0) return
    virtual.scrollToIndex(at, { align: begun.current ? 'auto' : 'center' })
    begun.current = true
  }, [at, virtual])
  const items = virtual.getVirtualItems()
  const last = items.at(-1)?.index ?? -1
  const { hasNextPage, isFetchingNextPage, isError, fetchNextPage } = query
  useEffect(() => {
    if (last >= rows.length - BEFORE && hasNextPage && !isFetchingNextPage && !isError) void fetchNextPage()
  }, [last, rows.length, hasNextPage, isFetchingNextPage, isError, fetchNextPage])
  const step = (by: number) => {
    const row = rows[Math.max(0, Math.min(rows.length - 1, at + by))]
    if (row) setChosen(row.stave.sentence_id)
  }
  useKeys([
    { keys: ['arrowdown'], caps: ['↓'], label: 'next sentence', run: () => step(1), repeats: true },
    { keys: ['arrowup'], caps: ['↑'], label: 'previous sentence', run: () => step(-1), repeats: true },
    { keys: ['pagedown'], caps: ['page down'], label: 'ten sentences on', run: () => step(10), quiet: true, repeats: true },
    { keys: ['pageup'], caps: ['page up'], label: 'ten sentences back', run: () => step(-10), quiet: true, repeats: true },
    { keys: ['enter'], caps: ['enter'], label: 'open it at the Desk', run: () => onOpen(chosen) },
    { keys: ['=', 'escape'], caps: ['='], label: 'back to the sentence', run: () => onOpen(sentence.id) },
  ])
  const group = query.data?.pages[0]?.group
  return (
    <Flex direction="column" h="full" px="6" pt="4">
      <Flex justify="space-between" gap="4" fontSize="small" color="second" mb="2">
        <span>
          <Box as="h1" display="inline" fontWeight="bold">
            {sentence.text.title}
          </Box>
          {group ? ` and what follows in ${group}` : ''}, with gold as it stands
        </span>
        <Flex gap="4">
          {from.number > 0 && <LinkAct onClick={() => setFrom({ ...from, number: 0 })}>from the start</LinkAct>}
          <LinkAct onClick={() => onOpen(sentence.id)}>back to the sentence</LinkAct>
        </Flex>
      </Flex>
      {query.isError && (
        <Box color="bad" role="alert">
          {messageOf(query.error)} <QuietAct onClick={() => void query.refetch()}>retry</QuietAct>
        </Box>
      )}
      <Box ref={frame} flex="1" minH="0" overflowY="auto" role="listbox" aria-label="the text" tabIndex={0} aria-busy={query.isPending}>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {items.map((item) => {
            const row = rows[item.index]
            const before = rows[item.index - 1]
            return (
              row && (
                <div
                  key={item.key}
                  ref={virtual.measureElement}
                  data-index={item.index}
                  role="option"
                  aria-selected={row.stave.sentence_id === chosen}
                  style={{ position: 'absolute', top: 0, left: 0, right: 0, transform: `translateY(${item.start}px)` }}
                  onClick={() => onOpen(row.stave.sentence_id)}
                >
                  <Row row={row} begins={before?.stave.text_id !== row.stave.text_id} chosen={row.stave.sentence_id === chosen} hues={hues} />
                </div>
              )
            )
          })}
        </div>
        {!hasNextPage && query.isSuccess && (
          <Box color="second" fontSize="small" ml="laneLabel" py="3">
            {group ? `Here ${group} ends.` : 'Here the text ends.'}
          </Box>
        )}
      </Box>
    </Flex>
  )
}

interface RowProps {
  row: ReadingShown
  begins: boolean
  chosen: boolean
  hues: ReadonlyMap<string, number>
}

const Row = memo(function Row({ row: { stave, state, before, after }, begins, chosen, hues }: RowProps) {
  const lanes = useMemo((): Lane[] => {
    const spans = stave.lanes['gold'] ?? []
    return spans.length > 0 ? [goldLane(spans)] : []
  }, [stave])
  return (
    <Box cursor="pointer" borderLeftWidth="3px" borderColor={chosen ? 'action' : 'transparent'} bg={chosen ? 'ground' : undefined}>
      {begins && (
        <Box as="h2" ml="laneLabel" pt="3" fontWeight="bold" fontSize="small" color="second">
          {stave.title}
        </Box>
      )}
      <Box ml="laneLabel">
        <Between words={before} />
      </Box>
      <Box position="relative">
        <Box position="absolute" left="10" top="2.5">
          <StateSign state={state} />
        </Box>
        <Stave words={stave.words} start={stave.start} tokens={stave.tokens} lang={useLanguage()} lanes={lanes} hues={hues} />
      </Box>
      <Box ml="laneLabel">
        <Between words={after} />
      </Box>
    </Box>
  )
})
