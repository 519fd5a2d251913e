import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../../api/client'
import type { operations } from '../../../api/schema'
import { stavePages } from '../../../stave/StaveList'

type Asked<O extends keyof operations> = operations[O] extends { parameters: { query?: infer Q } } ? NonNullable<Q> : never

/** Whose spans, in which texts. */
export type FindingsWish = Asked<'readFindings'>
export type TimeWish = Asked<'readOverTime'>
export type TogetherWish = Asked<'readTogether'>
export type CompareWish = Asked<'readComparison'>
export type ContextWish = Asked<'readContext'>
export type SentencesWish = Omit<Asked<'readFindingSentences'>, 'after'>
type ValuesWish = Asked<'readValues'>

/** Findings follow all that is signed and found: they are asked anew whenever anything at the Desk changes. */
const keyOf = (project: string, what: string, wish: object) => ['p', project, 'desk', 'findings', what, wish]

export const findingsQuery = (project: string, wish: FindingsWish) =>
  queryOptions({
    queryKey: keyOf(project, 'types', wish),
    queryFn: () => body(api.GET('/api/projects/{project}/findings', { params: { path: { project }, query: wish } })),
    placeholderData: keepPreviousData,
  })

export const valuesQuery = (project: string, wish: ValuesWish) =>
  queryOptions({
    queryKey: keyOf(project, 'values', wish),
    queryFn: () => body(api.GET('/api/projects/{project}/findings/values', { params: { path: { project }, query: wish } })),
  })

export const timeQuery = (project: string, wish: TimeWish) =>
  queryOptions({
    queryKey: keyOf(project, 'time', wish),
    queryFn: () => body(api.GET('/api/projects/{project}/findings/time', { params: { path: { project }, query: wish } })),
    retry: false,
  })

export const togetherQuery = (project: string, wish: TogetherWish) =>
  queryOptions({
    queryKey: keyOf(project, 'together', wish),
    queryFn: () => body(api.GET('/api/projects/{project}/findings/together', { params: { path: { project }, query: wish } })),
  })

export const comparisonQuery = (project: string, wish: CompareWish) =>
  queryOptions({
    queryKey: keyOf(project, 'comparison', wish),
    queryFn: () => body(api.GET('/api/projects/{project}/findings/comparison', { params: { path: { project }, query: wish } })),
  })

export const contextQuery = (project: string, wish: ContextWish) =>
  queryOptions({
    queryKey: keyOf(project, 'context', wish),
    queryFn: () => body(api.GET('/api/projects/{project}/findings/context', { params: { path: { project }, query: wish } })),
    placeholderData: keepPreviousData,
  })

export const sentencesQuery = (project: string, wish: SentencesWish) =>
  infiniteQueryOptions({
    queryKey: keyOf(project, 'sentences', wish),
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/findings/sentences', {
          params: { path: { project }, query: { ...wish, ...(pageParam === null ? {} : { after: pageParam }) } },
        }),
      ),
    ...stavePages,
  })

export const ruleNamesQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'names'],
    queryFn: async () => (await body(api.GET('/api/projects/{project}/rules', { params: { path: { project } } }))).map(({ name }) => name),
  })
