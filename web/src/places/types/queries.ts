import { queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'

/** What retiring a type, or merging it into another, would touch. */
export const touchedQuery = (project: string, type: number, into: number | null) =>
  queryOptions({
    queryKey: ['p', project, 'types', 'touched', type, into],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/types/{type_id}/touched', {
          params: { path: { project, type_id: type }, query: into === null ? {} : { into } },
        }),
      ),
    staleTime: 0,
  })

export const versionsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'types', 'versions'],
    queryFn: () => body(api.GET('/api/projects/{project}/types/versions', { params: { path: { project } } })),
  })

export const comparisonQuery = (project: string, before: number, after: number) =>
  queryOptions({
    queryKey: ['p', project, 'types', 'compare', before, after],
    queryFn: () =>
      body(api.GET('/api/projects/{project}/types/versions/compare', { params: { path: { project }, query: { before, after } } })),
  })
