import { infiniteQueryOptions, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'

export const templatesQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'records', 'templates'],
    queryFn: () => body(api.GET('/api/projects/{project}/records/templates', { params: { path: { project } } })),
  })

/** Which records, and in which order; nothing for all, as they stand in their texts. */
export interface Wanted {
  look?: string
  field?: string
  value?: string
  unsigned?: boolean
  sort?: string
  down?: boolean
}

export const recordsQuery = (project: string, template: number, wanted: Wanted) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'records', 'list', template, wanted],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/records/templates/{template_id}/records', {
          params: {
            path: { project, template_id: template },
            query: { ...wanted, ...(pageParam === null ? {} : { after: pageParam }) },
          },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
  })

export const countsQuery = (project: string, template: number) =>
  queryOptions({
    queryKey: ['p', project, 'records', 'counts', template],
    queryFn: () => body(api.GET('/api/projects/{project}/records/templates/{template_id}/counts', { params: { path: { project, template_id: template } } })),
  })

export const recordQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'records', 'one', id],
    queryFn: () =>
      body(api.GET('/api/projects/{project}/records/{record_id}', { params: { path: { project, record_id: id } } })),
  })

export function downloadAddress(project: string, template: number, kind: 'csv' | 'jsonl' | 'schema'): string {
  return `/api/projects/${encodeURIComponent(project)}/records/templates/${template}/${kind}`
}
