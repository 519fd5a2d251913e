import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { operations, SplitsWish } from '../../api/schema'

/** Which texts are taken out, whose annotation, and how it is written. */
export type CorpusWish = NonNullable<operations['previewCorpus']['parameters']['query']>

/** Which texts are asked for. */
export type TextsWish = Omit<NonNullable<operations['listTexts']['parameters']['query']>, 'after' | 'limit'>

export const textsQuery = (project: string, wish: TextsWish) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'texts', 'list', wish],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/texts', {
          params: { path: { project }, query: { ...wish, ...(pageParam === null ? {} : { after: pageParam }) } },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  })

/** How many texts fit; it may take longer than the first of them. */
export const countQuery = (project: string, wish: TextsWish) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'count', wish],
    queryFn: () => body(api.GET('/api/projects/{project}/texts/count', { params: { path: { project }, query: wish } })),
    placeholderData: keepPreviousData,
  })

/** How many texts have each value of a facet. */
export const facetQuery = (project: string, of: string, wish: TextsWish) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'facet', of, wish],
    queryFn: () => body(api.GET('/api/projects/{project}/texts/facets', { params: { path: { project }, query: { ...wish, of, limit: 200 } } })),
  })

export const metaNamesQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'metadata'],
    queryFn: () => body(api.GET('/api/projects/{project}/texts/metadata', { params: { path: { project } } })),
  })

export const latestActQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'latest'],
    queryFn: () => body(api.GET('/api/projects/{project}/texts/acts/latest', { params: { path: { project } } })),
  })

export const binQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'bin'],
    queryFn: () => body(api.GET('/api/projects/{project}/texts/bin', { params: { path: { project } } })),
  })

export const splitsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'splits'],
    queryFn: () => body(api.GET('/api/projects/{project}/texts/splits', { params: { path: { project } } })),
  })

export const draftQuery = (project: string, wish: SplitsWish) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'splits', wish],
    queryFn: () => body(api.POST('/api/projects/{project}/texts/splits/draft', { params: { path: { project } }, body: wish })),
    retry: false,
  })

export const abbreviationsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'abbreviations'],
    queryFn: () => body(api.GET('/api/projects/{project}/texts/abbreviations', { params: { path: { project } } })),
  })

export const textQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'one', id],
    queryFn: () =>
      body(api.GET('/api/projects/{project}/texts/{text_id}', { params: { path: { project, text_id: id } } })),
  })

export const sentencesQuery = (project: string, id: number) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'texts', 'one', id, 'sentences'],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/texts/{text_id}/sentences', {
          params: { path: { project, text_id: id }, query: pageParam === null ? {} : { after: pageParam } },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
  })

export const layersQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'desk', 'layers'],
    queryFn: () => body(api.GET('/api/projects/{project}/desk/layers', { params: { path: { project } } })),
  })

export const previewQuery = (project: string, wish: CorpusWish) =>
  queryOptions({
    queryKey: ['p', project, 'texts', 'corpus', wish],
    queryFn: () => body(api.GET('/api/projects/{project}/corpus/preview', { params: { path: { project }, query: wish } })),
    retry: false,
  })

/** Where the file is that a wish makes. */
export function addressOf(project: string, wish: CorpusWish): string {
  const said = Object.entries(wish).filter(([, value]) => value !== '' && value !== false)
  const pairs = said.flatMap(([name, value]) => (Array.isArray(value) ? value : [value]).map((one) => [name, String(one)]))
  return `/api/projects/${project}/corpus?${new URLSearchParams(pairs)}`
}
