import { queryOptions, useQuery } from '@tanstack/react-query'
import { useParams } from 'react-router'

import { api, body } from './client'

/** Short name of the project in the address. */
export function useProject(): string {
  const { project } = useParams()
  if (!project) throw new Error('There is no project in the address.')
  return project
}

export const meQuery = queryOptions({
  queryKey: ['me'],
  queryFn: () => body(api.GET('/api/me')),
  retry: false,
  staleTime: Infinity,
})

export const projectsQuery = queryOptions({
  queryKey: ['projects'],
  queryFn: () => body(api.GET('/api/projects')),
})

export const projectQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'project'],
    queryFn: () => body(api.GET('/api/projects/{project}', { params: { path: { project } } })),
  })

export const figuresQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'figures'],
    queryFn: () => body(api.GET('/api/projects/{project}/figures', { params: { path: { project } } })),
  })

export const schemeQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'types', 'scheme'],
    queryFn: () => body(api.GET('/api/projects/{project}/types', { params: { path: { project } } })),
  })

/** Language of the project's texts, as BCP 47 has it. */
export function useLanguage(): string | undefined {
  // Every stave asks, and it never changes.
  return useQuery({ ...projectQuery(useProject()), staleTime: Infinity }).data?.language
}

/** May the person at the screen change what only a lead may change? */
export function useIsLead(): boolean {
  return useQuery(projectQuery(useProject())).data?.role === 'lead'
}

/** May the person at the screen mark and sign? A reader may not. */
export function useMayAnnotate(): boolean {
  const role = useQuery(projectQuery(useProject())).data?.role
  return role === 'lead' || role === 'annotator'
}
