import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useDeferredValue, useEffect, useMemo } from 'react'
import { useParams } from 'react-router'

import { onAnnotation } from '../../api/live'
import { useProject } from '../../api/project'
import { useOutbox } from './outbox'
import { count, laidOver, listed, type Show } from './queue'
import { catchUp, type Order, type Portion, queueQuery } from './queries'

/** Sentences of a text whose evidence is worth not waiting for. */
export const LONG_TEXT = 300

const NONE = { total: 0, signed: 0, empty: 0, asked: 0 }

export type Queue = ReturnType<typeof useQueue>

/** The queue with what is on its way laid over it, and which sentence is open. */
export function useQueue(portion: Portion, order: Order, show: Show) {
  const project = useProject()
  const { id } = useParams()
  const query = useInfiniteQuery(queueQuery(project, portion, order))
  const client = useQueryClient()
  useEffect(() => {
    const look = (changed: string) => void catchUp(client, changed).catch(() => undefined)
    // A queue that was kept while one was elsewhere has missed what came in meanwhile.
    look(project)
    return onAnnotation(look)
  }, [client, project])
  // A key shows in its sentence first, then in the queue.
  const pending = useDeferredValue(useOutbox((s) => s.pending))
  const chosen = id === undefined ? null : Number(id)
  // Every page is fetched, one after the other: going on, counting and stepping need the whole queue.
  const { hasNextPage, isFetching, isError, fetchNextPage } = query
  useEffect(() => {
    if (hasNextPage && !isFetching && !isError) void fetchNextPage()
  }, [hasNextPage, isFetching, isError, fetchNextPage])
  const fetched = useMemo(() => query.data?.pages.flatMap((page) => page.items) ?? [], [query.data])
  const all = useMemo(() => laidOver(fetched, pending, project), [fetched, pending, project])
  const items = useMemo(() => listed(all, show, chosen), [all, show, chosen])
  // Until all is here the server's own count is nearer to the truth than ours.
  const whole = query.data && !hasNextPage
  const page = query.data?.pages.at(-1)
  const counted = useMemo(() => count(all), [all])
  const { total, signed, empty, asked } = (whole ? counted : page) ?? NONE
  const firstOpen = counted.firstOpen ?? (whole ? undefined : page?.first_open) ?? all[0]?.id
  /** The whole queue, as soon as it is here. */
  const everything = useCallback(async () => {
    for (;;) {
      const { data, hasNextPage: more, isError: failed } = await fetchNextPage({ cancelRefetch: false })
      if (!more || failed) return laidOver(data?.pages.flatMap((page) => page.items) ?? [], useOutbox.getState().pending, project)
    }
  }, [fetchNextPage, project])
  /** Is the sentence known to be of a text with few? In reading order only the last text of what is here may lack some. */
  const isShort = (sentence: number) => {
    const text = order.by === 'reading' && order.search === null && all.find((item) => item.id === sentence)?.text_id
    return typeof text === 'number' && (whole === true || all.at(-1)?.text_id !== text) && all.filter((item) => item.text_id === text).length < LONG_TEXT
  }
  return { query, isShort, items, total, signed, empty, asked, firstOpen, chosen, everything: hasNextPage ? everything : null }
}
