import type { PipelinePlan } from '../../api/schema'

export type Stage = PipelinePlan['stages'][number]
export type Kind = Stage['kind']
export type Policy = PipelinePlan['policy']
export type Relation = Stage['towards'][string]

/** What a stage of each kind is called, and what it does. */
export const KINDS: Record<Kind, { label: string; about: string }> = {
  lists: { label: 'lists', about: 'Names of the lists that are chosen.' },
  rules: { label: 'rules', about: 'What rules mark; each sees all spans before it.' },
  tagger: { label: 'tagger', about: 'What a tagger finds, with lists and rules before it at hand.' },
  where: { label: 'condition', about: 'Spans stay only where the words around them are as a pattern asks.' },
  types: { label: 'types', about: 'Types that stay, go, or become another.' },
  repeats: { label: 'names again', about: 'A name that was found with certainty is found wherever it stands again.' },
  given: { label: 'from elsewhere', about: 'Spans that come with the texts, as when a bundle reads JSON Lines.' },
}

export const POLICIES: Record<Policy['kind'], { label: string; about: string }> = {
  order: { label: 'by the order of stages', about: 'A later stage goes first, unless you say otherwise.' },
  longest: { label: 'the longest', about: 'Of spans that may not stand together the longest stands.' },
  likeliest: { label: 'the likeliest', about: 'The one with the highest probability stands.' },
  'by type': { label: 'by type', about: 'Each type has an order of stages of its own.' },
  weighed: { label: 'weighed', about: 'Every span gets one probability, from who says it and what is said around it.' },
}

function settingsOf(kind: Kind): Stage['settings'] {
  switch (kind) {
    case 'lists':
      return { lists: [] }
    case 'rules':
      return { rules: [] }
    case 'tagger':
      return { tagger: '', types: {}, least: 0, least_of: {}, also: 0 }
    case 'where':
      return { pattern: '', scope: 'sentence', has: true, types: [], stages: [] }
    case 'types':
      return { keep: [], drop: [], rename: {}, stages: [] }
    case 'repeats':
      return { types: [], least: 0.9, stages: [], in_group: false, small: false, times: 1 }
    case 'given':
      return { source: 'given', types: {} }
  }
}

/** A stage of a kind with a name that is free, as it is before anybody has said anything. */
export function newStage(plan: PipelinePlan, kind: Kind): Stage {
  const taken = new Set(plan.stages.map(({ name }) => name))
  const { label } = KINDS[kind]
  let name = label
  for (let k = 2; taken.has(name); k += 1) name = `${label} ${k}`
  return { name, kind, on: true, towards: {}, after_fault: 'go on', settings: settingsOf(kind) } as Stage
}

/** What a stage names of others must stand before it, and what the policy names must be there. */
function tidied(plan: PipelinePlan): PipelinePlan {
  const before = new Set<string>()
  const stages = plan.stages.map((stage) => {
    const towards = Object.fromEntries(Object.entries(stage.towards).filter(([name]) => before.has(name)))
    const settings = 'stages' in stage.settings ? { ...stage.settings, stages: stage.settings.stages.filter((name) => before.has(name)) } : stage.settings
    before.add(stage.name)
    return { ...stage, towards, settings } as Stage
  })
  const { order, by_type, worth } = plan.policy
  const policy: Policy = {
    ...plan.policy,
    order: order.filter((name) => before.has(name)),
    by_type: Object.fromEntries(Object.entries(by_type).map(([code, own]) => [code, own.filter((name) => before.has(name))])),
    worth: Object.fromEntries(Object.entries(worth).filter(([name]) => before.has(name))),
  }
  return { stages, policy }
}

/** How unlikely a tagger's second thoughts may be when they are asked for by one press. */
const SECOND_THOUGHTS = 0.05

/** Each tagger that is on says also what it did not choose. */
export const withSecondThoughts = (plan: PipelinePlan): PipelinePlan => ({
  ...plan,
  stages: plan.stages.map((stage) => (stage.kind === 'tagger' && stage.on && stage.settings.also === 0 ? { ...stage, settings: { ...stage.settings, also: SECOND_THOUGHTS } } : stage)),
})

/** A stage at another place among the others. */
export function movedTo(plan: PipelinePlan, name: string, place: number): PipelinePlan {
  const stage = plan.stages.find((one) => one.name === name)
  if (!stage || place < 0 || place >= plan.stages.length) return plan
  const rest = plan.stages.filter((one) => one !== stage)
  return tidied({ ...plan, stages: [...rest.slice(0, place), stage, ...rest.slice(place)] })
}

export const without = (plan: PipelinePlan, name: string) => tidied({ ...plan, stages: plan.stages.filter((stage) => stage.name !== name) })

export const withStage = (plan: PipelinePlan, stage: Stage): PipelinePlan => ({ ...plan, stages: [...plan.stages, stage] })

/** A stage changed; a new name goes wherever the old one stands. */
export function changed(plan: PipelinePlan, name: string, stage: Stage): PipelinePlan {
  const called = (one: string) => (one === name ? stage.name : one)
  const keyed = <T>(held: Record<string, T>) => Object.fromEntries(Object.entries(held).map(([key, value]) => [called(key), value]))
  const stages = plan.stages.map((one): Stage => {
    if (one.name === name) return stage
    const settings = 'stages' in one.settings ? { ...one.settings, stages: one.settings.stages.map(called) } : one.settings
    return { ...one, towards: keyed(one.towards), settings } as Stage
  })
  const { order, by_type, worth } = plan.policy
  const policy: Policy = {
    ...plan.policy,
    order: order.map(called),
    by_type: Object.fromEntries(Object.entries(by_type).map(([code, own]) => [code, own.map(called)])),
    worth: keyed(worth),
  }
  return { stages, policy }
}

export const switched = (plan: PipelinePlan, name: string): PipelinePlan => ({
  ...plan,
  stages: plan.stages.map((stage) => (stage.name === name ? { ...stage, on: !stage.on } : stage)),
})

export const samePlan = (one: PipelinePlan, other: PipelinePlan) => JSON.stringify(one) === JSON.stringify(other)
