import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery } from '@tanstack/react-query'
import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, useEffect, useMemo, useRef } from 'react'
import { Link } from 'react-router'

import { CodePoints } from '../../api/offsets'
import { useProject } from '../../api/project'
import type { SentencePage, SentenceState, TextShown } from '../../api/schema'
import { Between } from '../../parts/aside'
import { Ask } from '../../parts/Ask'
import { Title } from '../../parts/layout'
import { Unfetched } from '../../parts/RowList'
import { StateSign } from '../../parts/signs'
import { usePages } from '../../parts/usePages'
import { plural } from '../../parts/words'
import { sentencesQuery } from './queries'

interface TextSheetProps {
  text: TextShown
  acts: ReactNode
}

const rowsOf = (page: SentencePage) => page.sentences
const NO_ROWS: readonly SentenceState[] = []

const HEIGHT = 33
// So many rows before the end is reached the next ones are asked for.
const AHEAD = 100
// Code points of a sentence that are shown here; the Desk has all of it.
const MOST_SHOWN = 2000

/** A text by its sentences, of which those in sight are drawn and the others come as one scrolls. */
export function TextSheet({ text, acts }: TextSheetProps) {
  const query = useInfiniteQuery(sentencesQuery(useProject(), text.id))
  const { rows = NO_ROWS, rest } = usePages(query, rowsOf)
  const points = useMemo(() => new CodePoints(text.body), [text.body])
  const frame = useRef<HTMLDivElement>(null)
  // eslint-disable-next-line react-hooks/incompatible-library -- the list is not memoised
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => HEIGHT,
    getItemKey: (i) => rows[i]?.id ?? i,
    overscan: 12,
  })
  const items = virtual.getVirtualItems()
  const last = items.at(-1)?.index ?? -1
  useEffect(() => {
    if (last >= rows.length - AHEAD) rest.more()
  }, [last, rows.length, rest])
  return (
    <Flex direction="column" h="full" px="6" pt="4">
      <Title side={acts}>{text.title}</Title>
      <Box ref={frame} flex="1" minH="0" overflowY="auto" tabIndex={0} role="region" aria-label="sentences">
        <Ask query={query}>
          {() => (
            <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
              {items.map((item) => {
                const sentence = rows[item.index]
                return (
                  sentence && (
                    <div
                      key={item.key}
                      ref={virtual.measureElement}
                      data-index={item.index}
                      style={{ position: 'absolute', top: 0, left: 0, right: 0, transform: `translateY(${item.start}px)` }}
                    >
                      <Between words={points.slice(item.index === 0 ? 0 : (rows[item.index - 1]?.end ?? 0), sentence.start).trim()} />
                      <Row sentence={sentence} words={shown(points, sentence)} />
                      {item.index === rows.length - 1 && !query.hasNextPage && <Between words={points.slice(sentence.end, points.end).trim()} />}
                    </div>
                  )
                )
              })}
            </div>
          )}
        </Ask>
        <Unfetched rest={rest} />
      </Box>
    </Flex>
  )
}

function shown(points: CodePoints, { start, end }: SentenceState): string {
  return end - start <= MOST_SHOWN ? points.slice(start, end) : `${points.slice(start, start + MOST_SHOWN)} …`
}

function Row({ sentence, words }: { sentence: SentenceState; words: string }) {
  const project = useProject()
  return (
    <Flex gap="3" py="1" align="baseline" borderTopWidth="1px" borderColor="hairline">
      <StateSign state={sentence.state} />
      <Box asChild flex="1" minW="0" fontFamily="text" fontSize="context" whiteSpace="pre-line" overflowWrap="anywhere" _hover={{ color: 'action' }}>
        <Link to={`/p/${project}/desk/${sentence.id}`}>{words}</Link>
      </Box>
      <Box color="second" fontSize="small" whiteSpace="nowrap">
        {sentence.spans > 0 ? plural(sentence.spans, 'span') : sentence.state === 'signed' ? 'empty' : ''}
      </Box>
    </Flex>
  )
}
