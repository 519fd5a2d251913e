import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { EntriesWish, EntryShown, TakeStarterWish } from '../../api/schema'
import { stavePages } from '../../stave/StaveList'

export const listsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'lists', 'all'],
    queryFn: () => body(api.GET('/api/projects/{project}/lists', { params: { path: { project } } })),
  })

export const entriesQuery = (project: string, list: number, wish: EntriesWish) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'lists', 'entries', list, wish],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/lists/{list_id}/entries', {
          params: {
            path: { project, list_id: list },
            query: { ...wish, ...(pageParam === null ? {} : { after: pageParam }) },
          },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  })

export const entryQuery = (project: string, list: number, entry: number) =>
  queryOptions({
    queryKey: ['p', project, 'lists', 'entry', list, entry],
    queryFn: () => body(api.GET('/api/projects/{project}/lists/{list_id}/entries/{entry_id}', { params: { path: { project, list_id: list, entry_id: entry } } })),
  })

export const countsQuery = (project: string, list: number) =>
  queryOptions({
    queryKey: ['p', project, 'lists', 'counts', list],
    queryFn: () => body(api.GET('/api/projects/{project}/lists/{list_id}/entries/counts', { params: { path: { project, list_id: list } } })),
    placeholderData: keepPreviousData,
  })

export const missingQuery = (project: string, list: number) =>
  queryOptions({
    queryKey: ['p', project, 'lists', 'missing', list],
    queryFn: () => body(api.GET('/api/projects/{project}/lists/{list_id}/missing', { params: { path: { project, list_id: list } } })),
  })

export const harmQuery = (project: string, list: number) =>
  queryOptions({
    queryKey: ['p', project, 'lists', 'harm', list],
    queryFn: () => body(api.GET('/api/projects/{project}/lists/{list_id}/harm', { params: { path: { project, list_id: list } } })),
  })

export const latestListActQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'lists', 'latest'],
    queryFn: () => body(api.GET('/api/projects/{project}/lists/acts/latest', { params: { path: { project } } })),
  })

/** Asked again whenever the figures of the name are others: they may have been counted after its sentences were asked for. */
export const whyQuery = (project: string, list: number, { id: entry, worth }: EntryShown, outcome: string) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'lists', 'why', list, entry, outcome, worth],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/lists/{list_id}/entries/{entry_id}/why', {
          params: { path: { project, list_id: list, entry_id: entry }, query: { outcome, ...(pageParam === null ? {} : { after: pageParam }) } },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.finds.next,
    placeholderData: keepPreviousData,
  })

export const listFindsQuery = (project: string, list: number, outcome: string) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'lists', 'finds', list, outcome],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/lists/{list_id}/finds', {
          params: { path: { project, list_id: list }, query: { outcome, ...(pageParam === null ? {} : { after: pageParam }) } },
        }),
      ),
    ...stavePages,
  })

export const starterKindsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'starters', 'kinds'],
    queryFn: () => body(api.GET('/api/projects/{project}/starters', { params: { path: { project } } })),
    staleTime: Infinity,
  })

export const meaningsQuery = (project: string, search: string) =>
  queryOptions({
    queryKey: ['p', project, 'starters', 'meanings', search],
    queryFn: () => body(api.GET('/api/projects/{project}/starters/meanings', { params: { path: { project }, query: { search } } })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })

/** Which names of the general lexicon. */
export type StarterWish = Omit<TakeStarterWish, 'list_id' | 'numbers'>

export const starterNamesQuery = (project: string, wish: StarterWish) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'starters', 'names', wish],
    queryFn: ({ pageParam }) => body(api.GET('/api/projects/{project}/starters/names', { params: { path: { project }, query: { ...wish, after: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })

/** One of the project's jobs. */
export const jobQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'jobs', id],
    queryFn: async () => (await body(api.GET('/api/projects/{project}/jobs', { params: { path: { project } } }))).find((job) => job.id === id),
  })
