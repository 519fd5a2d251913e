import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import { stavePages } from '../../stave/StaveList'

export const listsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'lists', 'all'],
    queryFn: () => body(api.GET('/api/projects/{project}/lists', { params: { path: { project } } })),
  })

export const entriesQuery = (project: string, list: number, search: string) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'lists', 'entries', list, search],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/lists/{list_id}/entries', {
          params: {
            path: { project, list_id: list },
            query: { search, ...(pageParam === null ? {} : { after: pageParam }) },
          },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
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
