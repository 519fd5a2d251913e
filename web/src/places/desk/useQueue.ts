import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useDeferredValue, useEffect, useMemo, useState } from 'react'
import { useParams } from 'react-router'

import { onAnnotation } from '../../api/live'
import { useProject } from '../../api/project'
import type { QueueItemShown, QueuePage } from '../../api/schema'
import { usePages } from '../../parts/usePages'
import { useOutbox } from './outbox'
import { isOpen, laidOver, listed, moved, nextOpen, onTheirWay } from './queue'
import { catchUp, countsQuery, type Passage, queueQuery, readQueue } from './queries'

/** Sentences of a text whose evidence is worth not waiting for. */
export const LONG_TEXT = 300

const NONE = { total: 0, signed: 0, empty: 0, asked: 0, first_open: null }
const NO_ITEMS: readonly QueueItemShown[] = []
const itemsOf = (page: QueuePage) => page.items

export type Queue = ReturnType<typeof useQueue>

/** What is near the open sentence in the queue, with what is on its way laid over it. */
export function useQueue(passage: Passage) {
  const project = useProject()
  const { id } = useParams()
  const client = useQueryClient()
  const chosen = id === undefined ? null : Number(id)
  const told = useQuery(countsQuery(project, passage)).data
  const inReadingOrder = passage.order.by === 'reading' && passage.order.search === null
  // The sentence that the pages are around: where somebody came from elsewhere, not where they went from row to row.
  const [anchor, setAnchor] = useState({ around: chosen, passage })
  // Who orders anew begins at the top, though the sentence that was open still is for a moment.
  const around = anchor.passage === passage || inReadingOrder ? anchor.around : null
  // In reading order the counts say where the work begins, and the pages around that are the first to be asked for.
  const wasAsked = !inReadingOrder || told?.first_open === null || around !== null
  const isAsked = chosen !== null || wasAsked
  const query = useInfiniteQuery({ ...queueQuery(project, passage, around), enabled: isAsked, placeholderData: keepPreviousData })
  const { rows: fetched = NO_ITEMS, rest } = usePages(query, itemsOf)
  const isHere = fetched.some((item) => item.id === chosen)
  const isFetched = query.data !== undefined && !query.isPlaceholderData
  const isElsewhere = chosen === null ? around !== null : !isHere && around !== chosen && (isFetched || !wasAsked)
  if (isElsewhere) setAnchor({ around: chosen, passage })
  useEffect(() => {
    const look = (changed: string) => void catchUp(client, changed).catch(() => undefined)
    // A queue that was kept while one was elsewhere has missed what came in meanwhile.
    look(project)
    return onAnnotation(look)
  }, [client, project])
  // A key shows in its sentence first, then in the queue.
  const pending = useDeferredValue(useOutbox((s) => s.pending))
  const coming = useMemo(() => onTheirWay(pending, project), [pending, project])
  const all = useMemo(() => laidOver(fetched, coming), [fetched, coming])
  const items = useMemo(() => listed(all, passage.show, chosen), [all, passage.show, chosen])
  const counts = useMemo(
    () => fetched.reduce((sum, item) => moved(sum, item, coming.get(item.id) ?? item), told ?? NONE),
    [told, fetched, coming],
  )
  // Where the first open one is known to be signed by now, one looks on from there.
  const first = counts.first_open
  const isFirstDone = first !== null && all.some((item) => item.id === first && !isOpen(item))
  const firstOpen = inReadingOrder && first !== null && !isFirstDone ? first : (all.find(isOpen) ?? all[0])?.id
  const { hasNextPage } = query
  /** The next sentence that is not signed, wherever it is; else simply the next. */
  const goOnFrom = useCallback(
    async (sentence: number): Promise<QueueItemShown | undefined> => {
      const at = all.findIndex((item) => item.id === sentence)
      const near = at < 0 ? undefined : nextOpen(all, sentence)
      if (near || (at >= 0 && !hasNextPage)) return near ?? all[at + 1]
      const page = await readQueue(project, { ...passage, show: 'open' }, { at: sentence })
      const far = laidOver(page.items, onTheirWay(useOutbox.getState().pending, project))
      return nextOpen(far, sentence) ?? all[at + 1]
    },
    [all, hasNextPage, passage, project],
  )
  /** Is the sentence known to be of a text with few? */
  const isShort = (sentence: number) => fetched.some((item) => item.id === sentence && item.of < LONG_TEXT)
  const isKnown = isAsked ? query.isSuccess && !query.isPlaceholderData : told !== undefined
  return { query, rest, isShort, items, counts, firstOpen: isKnown ? firstOpen : undefined, chosen, goOnFrom }
}
