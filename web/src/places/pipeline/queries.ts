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

/** What is traced: words that somebody has pasted, or a sentence of the project. */
export type Traced = { words: string; sentence: null } | { words: ''; sentence: number }

export const traceQuery = (project: string, plan: PipelinePlan, traced: Traced) =>
  queryOptions({
    queryKey: ['p', project, 'pipeline', 'trace', plan, traced],
    queryFn: () => body(api.POST('/api/projects/{project}/pipeline/trace', { params: { path: { project } }, body: { plan, ...traced } })),
    placeholderData: keepPreviousData,
    retry: false,
  })

/** What was learnt to weigh by; asked again with every step of a job. */
export const weightsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'jobs', 'weights'],
    queryFn: () => body(api.GET('/api/projects/{project}/pipeline/weights', { params: { path: { project } } })),
  })

export const ablationQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'jobs', 'ablation'],
    queryFn: () => body(api.GET('/api/projects/{project}/pipeline/ablation', { params: { path: { project } } })),
  })

export const comparisonQuery = (project: string, before: number, after: number) =>
  queryOptions({
    queryKey: ['p', project, 'pipeline', 'compare', before, after],
    queryFn: () => body(api.GET('/api/projects/{project}/pipeline/compare', { params: { path: { project }, query: { before, after } } })),
    placeholderData: keepPreviousData,
    retry: false,
  })

/** What speaks for a span in what is traced, and what against it. */
export const weighQuery = (project: string, plan: PipelinePlan, traced: Traced, { start, end, type }: { start: number; end: number; type: string }) =>
  queryOptions({
    queryKey: ['p', project, 'pipeline', 'weigh', plan, traced, start, end, type],
    queryFn: () => body(api.POST('/api/projects/{project}/pipeline/weigh', { params: { path: { project } }, body: { plan, ...traced, start, end, type } })),
    retry: false,
  })

/** A bundle on its way in. */
export const incomingQuery = (project: string, job: number) =>
  queryOptions({
    queryKey: ['p', project, 'jobs', 'incoming', job],
    queryFn: () => body(api.GET('/api/projects/{project}/pipeline/incoming/{job_id}', { params: { path: { project, job_id: job } } })),
  })
