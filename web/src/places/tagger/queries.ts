import { queryOptions, useQuery } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { TrainingShown } from '../../api/schema'

export const trainingsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'tagger', 'trainings'],
    queryFn: () => body(api.GET('/api/projects/{project}/trainings', { params: { path: { project } } })),
  })

export const retrainingQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'tagger', 'anew'],
    queryFn: () => body(api.GET('/api/projects/{project}/trainings/anew', { params: { path: { project } } })),
  })

export const settingsQuery =
  queryOptions({
    queryKey: ['training settings'],
    queryFn: () => body(api.GET('/api/training-settings')),
    staleTime: Infinity,
  })

/** Settings by their names in words. */
export function useSettingTitles(): { titleOf: (name: string) => string } {
  const help = useQuery(settingsQuery).data
  const titles = new Map([...(help?.choices ?? []), ...(help?.settings ?? [])].map(({ name, title }) => [name, title]))
  return { titleOf: (name) => titles.get(name) ?? name }
}

export const wordClassesQuery = (project: string, training: TrainingShown) =>
  queryOptions({
    queryKey: ['p', project, 'tagger', 'classes', training.id, training.has_model],
    queryFn: () =>
      body(
        api.GET('/api/projects/{project}/trainings/{training_id}/word-classes', {
          params: { path: { project, training_id: training.id } },
        }),
      ),
  })

const path = (project: string, id: number) => ({ params: { path: { project, training_id: id } } })

/** Acts on a training, by their names on the wire. */
export const acts = {
  stop: (project: string, id: number) => body(api.POST('/api/projects/{project}/trainings/{training_id}/stop', path(project, id))),
  again: (project: string, id: number) => body(api.POST('/api/projects/{project}/trainings/{training_id}/again', path(project, id))),
  use: (project: string, id: number) => body(api.POST('/api/projects/{project}/trainings/{training_id}/use', path(project, id))),
}
