import { queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'

export const importsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'imports', 'list'],
    queryFn: () => body(api.GET('/api/projects/{project}/imports', { params: { path: { project } } })),
  })

export const importQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'imports', 'one', id],
    queryFn: () => body(api.GET('/api/projects/{project}/imports/{intake_id}', { params: { path: { project, intake_id: id } } })),
  })

export const plansQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'imports', 'plans'],
    queryFn: () => body(api.GET('/api/projects/{project}/imports/plans', { params: { path: { project } } })),
  })
