import { infiniteQueryOptions, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'

export const templatesQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'records', 'templates'],
    queryFn: () => body(api.GET('/api/projects/{project}/records/templates', { params: { path: { project } } })),
  })

export const recordsQuery = (project: string, template: number, onlyOpen: boolean) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'records', 'list', template, onlyOpen],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/records/templates/{template_id}/records', {
          params: {
            path: { project, template_id: template },
            query: { only_open: onlyOpen, ...(pageParam === null ? {} : { after: pageParam }) },
          },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
  })

export const recordQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'records', 'one', id],
    queryFn: () =>
      body(api.GET('/api/projects/{project}/records/{record_id}', { params: { path: { project, record_id: id } } })),
  })

export function downloadAddress(project: string, template: number, kind: 'csv' | 'jsonl'): string {
  return `/api/projects/${encodeURIComponent(project)}/records/templates/${template}/${kind}`
}
