import { describe, expect, it } from 'vitest'

import type { PipelinePlan } from '../../api/schema'
import { changed, movedTo, newStage, samePlan, type Stage, switched, without, withStage } from './plan'

const stage = (name: string, more: Partial<Stage> = {}): Stage => ({ name, kind: 'lists', on: true, towards: {}, after_fault: 'go on', settings: { lists: [] }, ...more }) as Stage
const AGAIN = stage('again', { kind: 'repeats', towards: { ships: 'binds' }, settings: { types: [], least: 0.9, stages: ['ships', 'goods'], in_group: false, small: false, times: 1 } })
const PLAN: PipelinePlan = {
  stages: [stage('ships'), stage('goods', { towards: { ships: 'feeds' } }), AGAIN],
  policy: { kind: 'by type', order: ['goods', 'ships'], by_type: { VES: ['ships'] }, least: null, worth: { goods: 0.4 }, weights: '' },
}
const names = (plan: PipelinePlan) => plan.stages.map(({ name }) => name)

describe('a plan that is changed', () => {
  it('moves a stage, and forgets what it named of stages that stand behind it now', () => {
    const moved = movedTo(PLAN, 'again', 0)
    expect(names(moved)).toEqual(['again', 'ships', 'goods'])
    expect(moved.stages[0]).toMatchObject({ towards: {}, settings: { stages: [] } })
    expect(moved.stages[2]?.towards).toEqual({ ships: 'feeds' })
    expect(movedTo(PLAN, 'ships', 1).stages.map(({ towards }) => towards)).toEqual([{}, {}, { ships: 'binds' }])
    expect(movedTo(PLAN, 'ships', -1)).toBe(PLAN)
    expect(movedTo(PLAN, 'again', 3)).toBe(PLAN)
    expect(movedTo(PLAN, 'none', 0)).toBe(PLAN)
  })

  it('without a stage names it nowhere', () => {
    const left = without(PLAN, 'ships')
    expect(names(left)).toEqual(['goods', 'again'])
    expect(JSON.stringify(left)).not.toContain('ships')
    expect(left.policy.worth).toEqual({ goods: 0.4 })
  })

  it('calls a stage by its new name wherever it stands', () => {
    const called = changed(PLAN, 'ships', stage('vessels'))
    expect(JSON.stringify(called)).not.toContain('"ships"')
    expect(called.stages[2]).toMatchObject({ towards: { vessels: 'binds' }, settings: { stages: ['vessels', 'goods'] } })
    expect(called.policy).toMatchObject({ order: ['goods', 'vessels'], by_type: { VES: ['vessels'] } })
    expect(changed(PLAN, 'goods', stage('things')).policy.worth).toEqual({ things: 0.4 })
  })

  it('turns one off and on again', () => {
    const off = switched(PLAN, 'goods')
    expect(off.stages.map(({ on }) => on)).toEqual([true, false, true])
    expect(samePlan(switched(off, 'goods'), PLAN)).toBe(true)
    expect(samePlan(off, PLAN)).toBe(false)
  })

  it('gives each new stage a name of its own', () => {
    const one = withStage(PLAN, newStage(PLAN, 'where'))
    const two = withStage(one, newStage(one, 'where'))
    expect(names(two).slice(3)).toEqual(['condition', 'condition 2'])
    expect(two.stages[4]).toMatchObject({ kind: 'where', on: true, settings: { scope: 'sentence', has: true } })
    for (const kind of ['lists', 'rules', 'tagger', 'types', 'repeats', 'given'] as const) expect(newStage(PLAN, kind).kind).toBe(kind)
  })
})
