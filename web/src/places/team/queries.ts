import { queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'

export const languagesQuery = queryOptions({
  queryKey: ['languages'],
  queryFn: () => body(api.GET('/api/languages')),
  staleTime: Infinity,
})

export const teamQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'project', 'team'],
    queryFn: () => body(api.GET('/api/projects/{project}/team', { params: { path: { project } } })),
  })

export const sessionsQuery = queryOptions({
  queryKey: ['sessions'],
  queryFn: () => body(api.GET('/api/me/sessions')),
})

export const accountsQuery = queryOptions({
  queryKey: ['accounts'],
  queryFn: () => body(api.GET('/api/accounts')),
})

export const invitationQuery = (token: string) =>
  queryOptions({
    queryKey: ['invitation', token],
    queryFn: () => body(api.POST('/api/invitation', { body: { token } })),
    retry: false,
  })
