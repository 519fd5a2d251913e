import { infiniteQueryOptions, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import { stavePages } from '../../stave/StaveList'

export const scorecardsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'scores', 'all'],
    queryFn: () => body(api.GET('/api/projects/{project}/scorecards', { params: { path: { project } } })),
  })

export const scorecardQuery = (project: string, id: number) =>
  queryOptions({
    queryKey: ['p', project, 'scores', 'one', id],
    queryFn: () =>
      body(api.GET('/api/projects/{project}/scorecards/{scorecard_id}', { params: { path: { project, scorecard_id: id } } })),
  })

export const scoredSentencesQuery = (project: string, id: number, type: string, outcome: string) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'scores', 'sentences', id, type, outcome],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/scorecards/{scorecard_id}/sentences', {
          params: { path: { project, scorecard_id: id }, query: { type, outcome, ...(pageParam === null ? {} : { after: pageParam }) } },
        }),
      ),
    ...stavePages,
  })

export const acceptanceQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'scores', 'acceptance'],
    queryFn: () => body(api.GET('/api/projects/{project}/desk/acceptance', { params: { path: { project } } })),
  })
