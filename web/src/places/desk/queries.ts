import { infiniteQueryOptions, type InfiniteData, queryOptions, type QueryClient, replaceEqualDeep } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { AnnotationShown, AtOnceShown, AtOnceWish, DeskSentenceShown, operations, QueueItemShown, QueuePage, TravelWish } from '../../api/schema'
import type { Arrival, PendingAct } from './outbox'
import { wishOf } from './wishes'

/** What is searched for: parameters of the queue, without those of its portion and its order. */
export type Search = Partial<Omit<OrderParameters, 'by' | 'split' | 'round' | 'seed' | 'turn' | 'after' | 'limit'>>
type OrderParameters = NonNullable<operations['readOrderedQueue']['parameters']['query']>
export type By = NonNullable<OrderParameters['by']>

/** Which texts: those of one split or of all, of one round or of any. */
export interface Portion {
  split: string
  round: number | null
}

/** In which order; a new turn searches and orders anew, the same one leaves all as it is. */
export interface Order {
  by: By
  seed: number
  turn: number
  search: Search | null
}

/** Sentences of a page of the queue after the first, for which somebody waits. */
const LATER_PAGES = 5000

export const queueQuery = (project: string, portion: Portion, { by, seed, turn, search }: Order) => {
  const live = by === 'reading' && search === null
  const wanted = wish(portion)
  return infiniteQueryOptions({
    queryKey: ['p', project, 'desk', 'queue', wanted, by, ...(live ? [] : [seed, turn, search])],
    queryFn: ({ pageParam }) =>
      live
        ? body(
            api.GET('/api/projects/{project}/desk/queue', {
              params: { path: { project }, query: { ...wanted, ...(pageParam === null ? {} : { after: pageParam, limit: LATER_PAGES }) } },
            }),
          )
        : body(
            api.GET('/api/projects/{project}/desk/queue/ordered', {
              params: { path: { project }, query: { ...search, ...wanted, by, seed, turn, after: pageParam ?? 0 } },
            }),
          ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
    staleTime: Infinity,
  })
}

/** A portion as the server is asked for it. */
const wish = ({ split, round }: Portion) => ({ split, ...(round === null ? {} : { round }) })

type Queue = InfiniteData<QueuePage>

/** Bring every queue that is kept up to date with what acts have touched since it was fetched. */
export async function catchUp(client: QueryClient, project: string): Promise<void> {
  const held = client.getQueriesData<Queue>({ queryKey: ['p', project, 'desk', 'queue'] })
  const known = held.flatMap(([, queue]) => queue?.pages.map((page) => page.moment) ?? [])
  if (known.length === 0) return
  const { moment, sentences } = await body(
    api.GET('/api/projects/{project}/desk/queue/changes', { params: { path: { project }, query: { since: Math.min(...known) } } }),
  )
  const fresh = new Map(sentences.map((sentence) => [sentence.id, sentence]))
  change(client, project, (item) => fresh.get(item.id), moment)
}

/** Give sentences of every kept queue another standing, and say which moment that is from. */
function change(client: QueryClient, project: string, standingOf: (item: QueueItemShown) => Partial<QueueItemShown> | undefined, moment?: number): void {
  client.setQueriesData<Queue>(
    { queryKey: ['p', project, 'desk', 'queue'] },
    (old) =>
      old && {
        ...old,
        pages: old.pages.map((page) => {
          const items = page.items.map((item) => {
            const standing = standingOf(item)
            return standing ? { ...item, ...standing } : item
          })
          const touched = items.some((item, i) => item !== page.items[i])
          return { ...page, items: touched ? items : page.items, moment: Math.max(page.moment, moment ?? 0) }
        }),
      },
  )
}

export const sentenceQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'sentence', id],
    queryFn: async ({ client }) => {
      const fresh = await body(
        api.GET('/api/projects/{project}/desk/sentences/{sentence_id}', {
          params: { path: { project, sentence_id: id } },
        }),
      )
      // Evidence takes its time: acts may have arrived since the annotation was read that comes with it.
      return newest(client.getQueryData(bareSentenceQuery(project, id).queryKey), fresh)
    },
    structuralSharing: (old, fresh) => newest(old as DeskSentenceShown | undefined, fresh as DeskSentenceShown),
  })

/** A sentence without its evidence, to be read while the evidence of a long text is still being looked up. */
export const bareSentenceQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'bare', id],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/desk/sentences/{sentence_id}', {
          params: { path: { project, sentence_id: id }, query: { evidence: false } },
        }),
      ),
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

export const roundsQuery = (project: string) =>
  queryOptions({
    // Not among the Desk's: they are counted, so annotation does not have them counted anew; their window asks when it opens.
    queryKey: ['p', project, 'rounds'],
    queryFn: () => body(api.GET('/api/projects/{project}/desk/rounds', { params: { path: { project } } })),
  })

export const paceQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'pace'],
    queryFn: () => body(api.GET('/api/projects/{project}/desk/pace', { params: { path: { project } } })),
  })

const MOST_KEPT_ALIVE = 500

export async function sendAct(act: PendingAct): Promise<Arrival> {
  if (act.travel) {
    const { way, of } = act.travel
    const done = await travel[way](act.project, { of, token: act.wish.token })
    return { sentence: done.sentence_id, annotation: done.annotation, left: done.sentences === 0 }
  }
  const annotation = await body(
    api.PUT('/api/projects/{project}/desk/sentences/{sentence_id}', {
      params: { path: { project: act.project, sentence_id: act.sentence } },
      body: wishOf(act.wish),
      // Goes through even when the page is left at this moment; browsers allow that for small bodies.
      keepalive: act.wish.spans.length < MOST_KEPT_ALIVE,
    }),
  )
  return { sentence: act.sentence, annotation, left: false }
}

/** Undo the account's newest act, or the one that is named; do again likewise. */
export const travel = {
  undo: (project: string, wish: TravelWish = {}) =>
    body(api.POST('/api/projects/{project}/desk/undo', { params: { path: { project } }, body: wish, keepalive: true })),
  redo: (project: string, wish: TravelWish = {}) =>
    body(api.POST('/api/projects/{project}/desk/redo', { params: { path: { project } }, body: wish, keepalive: true })),
}

/** What the page knows of a sentence from the server, if it has ever been open here. */
export function annotationOf(client: QueryClient, project: string, id: number): AnnotationShown | undefined {
  const held = client.getQueryData(sentenceQuery(project, id).queryKey) ?? client.getQueryData(bareSentenceQuery(project, id).queryKey)
  return held?.annotation
}

/** Put what the server says of a sentence where the page reads it, without asking again. */
export function remember(client: QueryClient, project: string, id: number, annotation: AnnotationShown): void {
  for (const { queryKey } of [sentenceQuery(project, id), bareSentenceQuery(project, id)])
    client.setQueryData<DeskSentenceShown>(queryKey, (old) => old && { ...old, annotation })
  const { state, spans, question, answer } = annotation
  const standing = { state, spans: spans.length, asked: question !== '' && answer === '' }
  change(client, project, (item) => (item.id === id ? standing : undefined))
}

export const alikeQuery = (project: string, id: number, span: { start: number; end: number; type: string }) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'alike', id, span],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/desk/sentences/{sentence_id}/alike', {
          params: { path: { project, sentence_id: id }, query: span },
        }),
      ),
  })

export const correctionQuery = (project: string, search: Search, portion: Portion, code: string) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'correction', search, portion, code],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/desk/corrections', {
          params: { path: { project }, query: { ...search, ...wish(portion), code } },
        }),
      ),
  })

export function changeAtOnce(project: string, wish: AtOnceWish): Promise<AtOnceShown> {
  return body(api.POST('/api/projects/{project}/desk/at-once', { params: { path: { project } }, body: wish }))
}

export const readingQuery = (project: string, from: { text: number; number: number }) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'desk', 'reading', from],
    queryFn: ({ pageParam }) =>
      body(api.GET('/api/projects/{project}/desk/reading', { params: { path: { project }, query: pageParam } })),
    initialPageParam: from,
    getNextPageParam: (page) => page.next,
  })
