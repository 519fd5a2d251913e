import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { operations } from '../../api/schema'

/** Which texts are taken out, whose annotation, and how it is written. */
export type CorpusWish = NonNullable<operations['previewCorpus']['parameters']['query']>

export const textsQuery = (project: string, search: string, split: string) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'texts', 'list', search, split],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/texts', {
          params: { path: { project }, query: { search, split, ...(pageParam === null ? {} : { after: pageParam }) } },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
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
  return `/api/projects/${project}/corpus?${new URLSearchParams(said.map(([name, value]) => [name, String(value)]))}`
}
