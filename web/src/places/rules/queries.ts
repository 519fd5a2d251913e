import { infiniteQueryOptions, queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { TrialWish } from '../../api/schema'
import { among } from '../../stave/span'
import { type Differing, stavePages } from '../../stave/StaveList'

export const rulesQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'all'],
    queryFn: () => body(api.GET('/api/projects/{project}/rules', { params: { path: { project } } })),
  })

export const ruleFindsQuery = (project: string, rule: number, outcome: string) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'rules', 'finds', rule, outcome],
    queryFn: ({ pageParam }) =>
      body(
        api.GET('/api/projects/{project}/rules/{rule_id}/finds', {
          params: { path: { project, rule_id: rule }, query: { outcome, ...(pageParam === null ? {} : { after: pageParam }) } },
        }),
      ),
    ...stavePages,
  })

/** What a trial shows beneath a sentence. */
export const TRIAL_LANES = [['gold', 'Gold'], ['rules', 'This rule']] as const
/** What a rule that takes spans away gets wrong: gold. */
export const takenGold: Differing = (gold, found) => among(found, gold)

/** Short: the answer is there soon, and one wants to see at once what a word more does. */
export const PAUSE_MS = 100

export const trialQuery = (project: string, wish: TrialWish) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'trial', wish],
    queryFn: () => body(api.POST('/api/projects/{project}/rules/try', { params: { path: { project } }, body: wish })),
    retry: false,
  })

/** What patterns may ask of words, and how often the answer is right. */
export const languageQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'language'],
    queryFn: () => body(api.GET('/api/projects/{project}/rules/language', { params: { path: { project } } })),
    staleTime: Infinity,
  })

/** Rules learnt from gold, sought anew whenever they are looked at: what was taken meanwhile is not offered again. */
export const offersQuery = (project: string, type: string) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'offers', type],
    staleTime: 0,
    refetchOnMount: 'always',
    queryFn: () => body(api.POST('/api/projects/{project}/rules/offers', { params: { path: { project } }, body: { type } })),
  })

/** What each part of a rule took, in right finds and in wrong ones; asked anew with the rule's figures. */
export const slotsQuery = (project: string, rule: number) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'slots', rule],
    queryFn: () => body(api.GET('/api/projects/{project}/rules/{rule_id}/slots', { params: { path: { project, rule_id: rule } } })),
  })

export const wordsQuery = (project: string, text: string) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'words', text],
    queryFn: () => body(api.POST('/api/projects/{project}/rules/words', { params: { path: { project } }, body: { text } })),
    retry: false,
  })

export const fragmentsQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'fragments'],
    queryFn: () => body(api.GET('/api/projects/{project}/rules/fragments', { params: { path: { project } } })),
  })

/** Names of the project's lists, as patterns name them. */
export const listNamesQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'lists', 'names'],
    queryFn: async () => {
      const lists = await body(api.GET('/api/projects/{project}/lists', { params: { path: { project } } }))
      return lists.map(({ name }) => name)
    },
  })

/** Gold of a rule's type that no rule finds. */
export const missedQuery = (project: string, rule: number) =>
  infiniteQueryOptions({
    queryKey: ['p', project, 'rules', 'missed', rule],
    queryFn: ({ pageParam }) =>
      body(api.GET('/api/projects/{project}/rules/{rule_id}/missed', { params: { path: { project, rule_id: rule }, query: pageParam === null ? {} : { after: pageParam } } })),
    ...stavePages,
  })

/** What this person did last to rules and fragments, and can undo. */
export const latestRuleActQuery = (project: string) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'latest'],
    queryFn: () => body(api.GET('/api/projects/{project}/rules/acts/latest', { params: { path: { project } } })),
  })

/** A rule that is held against all texts; asked again whenever a job says how far it is. */
export const trialOfAllQuery = (project: string, number: number) =>
  queryOptions({
    queryKey: ['p', project, 'jobs', 'rule trial', number],
    queryFn: () => body(api.GET('/api/projects/{project}/rules/trials/{number}', { params: { path: { project, number } } })),
  })
