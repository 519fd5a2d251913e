import { keepPreviousData, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { PipelinePlan } from '../../api/schema'

export const pipelineQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'pipeline', 'now'],
    queryFn: () => body(api.GET('/api/projects/{project}/pipeline', { params: { path: { project } } })),
  })

export const versionsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'pipeline', 'versions'],
    queryFn: () => body(api.GET('/api/projects/{project}/pipeline/versions', { params: { path: { project } } })),
  })

/** What a plan does on dev, beside the pipeline of now. */
export const lookQuery = (project: string, plan: PipelinePlan) =>
  queryOptions({
    queryKey: ['p', project, 'pipeline', 'look', plan],
    queryFn: () => body(api.POST('/api/projects/{project}/pipeline/look', { params: { path: { project } }, body: plan })),
    placeholderData: keepPreviousData,
    retry: false,
  })

export const traceQuery = (project: string, plan: PipelinePlan, words: string) =>
  queryOptions({
    queryKey: ['p', project, 'pipeline', 'trace', plan, words],
    queryFn: () => body(api.POST('/api/projects/{project}/pipeline/trace', { params: { path: { project } }, body: { plan, words, sentence: null } })),
    placeholderData: keepPreviousData,
    retry: false,
  })
