import { infiniteQueryOptions, type InfiniteData, queryOptions, type QueryClient, replaceEqualDeep } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { AnnotationShown, AtOnceShown, AtOnceWish, DeskSentenceShown, operations, QueueItemShown, QueuePage, TravelWish } from '../../api/schema'
import type { Arrival, PendingAct } from './outbox'
import { moved, type Standing } from './queue'
import { wishOf } from './wishes'

/** What is searched for: parameters of the queue, without those of its portion, its order and its part. */
export type Search = Partial<Omit<OrderParameters, 'by' | 'split' | 'round' | 'seed' | 'turn' | 'show' | 'after' | 'before' | 'at' | 'limit'>>
type OrderParameters = NonNullable<operations['readOrderedQueue']['parameters']['query']>
export type By = NonNullable<OrderParameters['by']>

/** Which texts: those of one split or of all, of one round or of any. */
export interface Portion {
  split: string
  round: number | null
}

/** Which sentences of the queue are listed. */
export type Show = NonNullable<OrderParameters['show']>

/** What is gone through, and in which order. */
export interface Passage extends Portion {
  order: Order
  show: Show
}

/** In which order; a new turn searches and orders anew, the same one leaves all as it is. */
export interface Order {
  by: By
  seed: number
  turn: number
  search: Search | null
}

/** A part of the queue: beyond what a page named, or around a sentence. */
type Part = Pick<OrderParameters, 'after' | 'before' | 'at'>

// Pages that are kept: what is in sight and its neighbours; those farther away are fetched again when one comes there.
const MOST_PAGES = 10

/** The pages of the queue around a sentence, or from its start. */
export const queueQuery = (project: string, passage: Passage, around: number | null) => {
  const first: Part = around === null ? {} : { at: around }
  return infiniteQueryOptions({
    queryKey: ['p', project, 'desk', 'queue', passageKey(passage), around],
    queryFn: ({ pageParam }) => readQueue(project, passage, pageParam),
    initialPageParam: first,
    getNextPageParam: ({ next }): Part | null => (next === null ? null : { after: next }),
    getPreviousPageParam: ({ previous }): Part | null => (previous === null ? null : { before: previous }),
    maxPages: MOST_PAGES,
    staleTime: Infinity,
  })
}

const isLive = ({ order: { by, search } }: Passage) => by === 'reading' && search === null

const ordering = ({ order: { by, seed, turn, search }, show, ...portion }: Passage) => ({ ...search, ...wish(portion), by, seed, turn, show })

const passageKey = (passage: Passage) => (isLive(passage) ? { ...wish(passage), show: passage.show } : ordering(passage))

export function readQueue(project: string, passage: Passage, part: Part & { limit?: number }): Promise<QueuePage> {
  const path = { project }
  return isLive(passage)
    ? body(api.GET('/api/projects/{project}/desk/queue', { params: { path, query: { ...wish(passage), show: passage.show, ...part } } }))
    : body(api.GET('/api/projects/{project}/desk/queue/ordered', { params: { path, query: { ...ordering(passage), ...part } } }))
}

/** The texts of the whole queue, in its order. */
export const queueTextsQuery = (project: string, passage: Passage) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'queue texts', ordering(passage)],
    queryFn: () => body(api.GET('/api/projects/{project}/desk/queue/texts', { params: { path: { project }, query: ordering(passage) } })),
  })

/** How far a portion is signed. */
export const countsQuery = (project: string, portion: Portion) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'counts', wish(portion)],
    queryFn: () => body(api.GET('/api/projects/{project}/desk/queue/counts', { params: { path: { project }, query: wish(portion) } })),
    staleTime: Infinity,
  })

/** A portion as the server is asked for it. */
const wish = ({ split, round }: Portion) => ({ split, ...(round === null ? {} : { round }) })

type Queue = InfiniteData<QueuePage>

/** Bring every queue that is kept up to date with what acts have touched since it was fetched. */
export async function catchUp(client: QueryClient, project: string): Promise<void> {
  const held = client.getQueriesData<Queue>({ queryKey: ['p', project, 'desk', 'queue'] })
  const known = held.flatMap(([, queue]) => queue?.pages.map((page) => page.moment) ?? [])
  void client.invalidateQueries({ queryKey: ['p', project, 'desk', 'counts'] })
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

/** An act has arrived: what the counts of every portion with this sentence come to, until they are read again. */
function recount(client: QueryClient, project: string, id: number, standing: Standing): void {
  const holders = new Map<string, { portion: Portion; item: QueueItemShown }>()
  for (const [key, queue] of client.getQueriesData<Queue>({ queryKey: ['p', project, 'desk', 'queue'] })) {
    const item = queue?.pages.flatMap((page) => page.items).find((one) => one.id === id)
    const { split, round = null } = key[4] as { split: string; round?: number }
    if (item) holders.set(`${split} ${round ?? ''}`, { portion: { split, round }, item })
  }
  for (const { portion, item } of holders.values())
    client.setQueryData(countsQuery(project, portion).queryKey, (old) => old && moved(old, item, standing))
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

/** What speaks for a span and what against it, where the pipeline weighs. */
export const weighedQuery = (project: string, sentence: number, { start, end, type }: { start: number; end: number; type: string }) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'weighed', sentence, start, end, type],
    queryFn: () => body(api.GET('/api/projects/{project}/pipeline/weighed', { params: { path: { project }, query: { sentence, start, end, type } } })),
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
  recount(client, project, id, standing)
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

export const layersQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'layers'],
    queryFn: () => body(api.GET('/api/projects/{project}/desk/layers', { params: { path: { project } } })),
  })

export const layerProposalsQuery = (project: string, layer: number) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'layer', layer],
    queryFn: () => body(api.GET('/api/projects/{project}/desk/layers/{layer_id}/proposals', { params: { path: { project, layer_id: layer } } })),
  })
