import type { PipelinePlan, PipelineShown, PlanLookShown, TraceShown } from '../../api/schema'

export const PLAN: PipelinePlan = {
  stages: [
    { name: 'lists', kind: 'lists', on: true, towards: {}, after_fault: 'go on', settings: { lists: [] } },
    { name: 'rules', kind: 'rules', on: true, towards: {}, after_fault: 'go on', settings: { rules: [] } },
  ],
  policy: { kind: 'order', order: [], by_type: {}, least: null, worth: {}, weights: '' },
}
export const KEPT = { name: '', published: false, has_bundle: false }
export const OLD: PipelinePlan = { ...PLAN, stages: PLAN.stages.slice(0, 1) }
export const NOW: PipelineShown = {
  version: { number: 2, said: '“rules” is new', by: 'Ines', created_at: '2026-08-04T10:00:00Z', ...KEPT, plan: PLAN },
  fault: '',
  choices: { lists: ['vessels', 'ports'], rules: ['berth'], types: ['VES', 'PRT'], taggers: { '4': 'first' } },
}
export const effect = (name: string, added: number) => ({ name, kind: name, added, changed: 0, dropped: 0, refused: 1, judged: 4, right: 3, milliseconds: 5, troubles: [] })
export const LOOK: PlanLookShown = {
  texts: 2, all: true, tokens: 1000, sentences: 9, stages: [effect('lists', 8), effect('rules', 0)],
  after: { right: 6, found: 8, gold: 10 }, before: { right: 6, found: 8, gold: 10 }, differing: 0, weights: null, example: 'Haldis lies.', shown: [],
}
export const BETTER: PlanLookShown = { ...LOOK, after: { right: 9, found: 10, gold: 10 }, differing: 3 }
export const span = (start: number, end: number, type: string) => ({ start, end, type, source: 'lists', probability: null, maker: '', why: '' })
export const TRACE: TraceShown = {
  sentences: [{ start: 0, end: 12, words: 'Haldis lies.', tokens: [{ start: 0, end: 6 }, { start: 7, end: 11 }, { start: 11, end: 12 }] }],
  steps: [
    { name: 'lists', kind: 'lists', after: [span(0, 6, 'VES')], changes: [{ what: 'added', span: span(0, 6, 'VES'), why: 'list vessels, entry “Haldis”' }], troubles: [] },
    { name: 'policy', kind: '', after: [], changes: [{ what: 'dropped', span: span(0, 6, 'VES'), why: 'gave way to PRT' }], troubles: ['it took too long'] },
  ],
}
export const VERSIONS = [NOW.version, { number: 1, said: '“rules” is gone', by: '', created_at: '2026-08-03T10:00:00Z', ...KEPT, plan: OLD }, { number: 0, said: '', by: '', created_at: null, ...KEPT, plan: PLAN }]
export const ANSWERS = { 'GET /pipeline': NOW, 'GET /pipeline/versions': VERSIONS, 'POST /pipeline/look': LOOK, 'POST /pipeline/trace': TRACE, 'GET /pipeline/ablation': null, 'GET /pipeline/weights': { job: null, weights: [] } }
