import { infiniteQueryOptions, type InfiniteData, queryOptions, type QueryClient, replaceEqualDeep } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { AnnotationShown, DeskSentenceShown, QueueItemShown, QueuePage } from '../../api/schema'
import type { PendingAct } from './outbox'

export type By = 'reading' | 'disputes' | 'doubt' | 'novelty' | 'random'

/** The order of the queue; a new turn orders anew, the same one leaves it as it is. */
export interface Order {
  by: By
  seed: number
  turn: number
}

export const queueQuery = (project: string, split: string, { by, seed, turn }: Order) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'desk', 'queue', split, by, ...(by === 'reading' ? [] : [seed, turn])],
    queryFn: ({ pageParam }) =>
      by === 'reading'
        ? body(
            api.GET('/api/projects/{project}/desk/queue', {
              params: { path: { project }, query: { split, ...(pageParam === null ? {} : { after: pageParam }) } },
            }),
          )
        : body(
            api.GET('/api/projects/{project}/desk/queue/ordered', {
              params: { path: { project }, query: { split, by, seed, turn, after: pageParam ?? 0 } },
            }),
          ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
  })

export const sentenceQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'sentence', id],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/desk/sentences/{sentence_id}', {
          params: { path: { project, sentence_id: id } },
        }),
      ),
    structuralSharing: (old, fresh) => newest(old as DeskSentenceShown | undefined, fresh as DeskSentenceShown),
  })

/** An answer that was asked for before an act arrived does not take the act back. */
export function newest(old: DeskSentenceShown | undefined, fresh: DeskSentenceShown): DeskSentenceShown {
  const late = old !== undefined && fresh.annotation.version < old.annotation.version
  return replaceEqualDeep(old, late ? { ...fresh, annotation: old.annotation } : fresh)
}

export const historyQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'history', id],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/desk/sentences/{sentence_id}/history', {
          params: { path: { project, sentence_id: id } },
        }),
      ),
  })

export const whyQuery = (project: string, id: number, { start, end, type }: { start: number; end: number; type: string }) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'why', id, start, end, type],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/desk/sentences/{sentence_id}/why', {
          params: { path: { project, sentence_id: id }, query: { start, end, type } },
        }),
      ),
  })

export const elsewhereQuery = (project: string, id: number, { start, end }: { start: number; end: number }) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'elsewhere', id, start, end],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/desk/sentences/{sentence_id}/elsewhere', {
          params: { path: { project, sentence_id: id }, query: { start, end } },
        }),
      ),
  })

export const elsewhereStavesQuery = (project: string, id: number, { start, end }: { start: number; end: number }) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'elsewhere', id, start, end, 'staves'],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/desk/sentences/{sentence_id}/elsewhere/staves', {
          params: { path: { project, sentence_id: id }, query: { start, end } },
        }),
      ),
  })

export const paceQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'pace'],
    queryFn: () => body(api.GET('/api/projects/{project}/desk/pace', { params: { path: { project } } })),
  })

const MOST_KEPT_ALIVE = 500

export function sendAct(act: PendingAct): Promise<AnnotationShown> {
  return body(
    api.PUT('/api/projects/{project}/desk/sentences/{sentence_id}', {
      params: { path: { project: act.project, sentence_id: act.sentence } },
      body: act.wish,
      // Goes through even when the page is left at this moment; browsers allow that for small bodies.
      keepalive: act.wish.spans.length < MOST_KEPT_ALIVE,
    }),
  )
}

export const travel = {
  undo: (project: string) => body(api.POST('/api/projects/{project}/desk/undo', { params: { path: { project } } })),
  redo: (project: string) => body(api.POST('/api/projects/{project}/desk/redo', { params: { path: { project } } })),
}

/** Put what the server says of a sentence where the page reads it, without asking again. */
export function remember(client: QueryClient, project: string, id: number, annotation: AnnotationShown): void {
  client.setQueryData<DeskSentenceShown>(sentenceQuery(project, id).queryKey, (old) => old && { ...old, annotation })
  client.setQueriesData<InfiniteData<QueuePage>>(
    { queryKey: ['p', project, 'desk', 'queue'] },
    (old) =>
      old && {
        ...old,
        pages: old.pages.map((page) => ({
          ...page,
          items: page.items.map(
            (item): QueueItemShown =>
              item.id === id
                ? {
                    ...item,
                    state: annotation.state,
                    spans: annotation.spans.length,
                    asked: annotation.question !== '' && annotation.answer === '',
                  }
                : item,
          ),
        })),
      },
  )
}
