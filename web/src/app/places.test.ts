import { describe, expect, it } from 'vitest'

import type { JobShown, ProjectFigures } from '../api/schema'
import { half } from '../places/scores/Scores'
import { bestDev, timeLeft } from '../places/tagger/epochs'
import { freeHue, freeKey } from '../places/types/TypeForm'
import { PLACES } from './places'

const FIGURES: ProjectFigures = {
  types: 10,
  scheme: 12,
  texts: 1,
  signed: 63,
  sentences: 100,
  lists: 4,
  names: 1240,
  rules: 14,
  rules_failing: 2,
  tagger: null,
  pipeline: { stages: 3, version: 2 },
  scores: { f1: 0.812, low: 0.791, high: 0.833 },
  records: 418,
  records_open: 31,
  stale: {},
  running: [],
}
const JOB: JobShown = {
  id: 1,
  kind: 'training',
  title: 't',
  state: 'running',
  done: 6,
  total: 10,
  unit: 'epochs',
  message: '',
  created_at: '2026-08-04T10:00:00Z',
  started_at: '2026-08-04T10:00:00Z',
  finished_at: null,
}

const shown = (figures: ProjectFigures) => Object.fromEntries(PLACES.map((p) => [p.path, p.figure(figures)]))

describe('the figures of the bar', () => {
  it('say what they count', () => {
    expect(shown(FIGURES)).toEqual({
      types: '10 types · v12',
      texts: '1 text',
      desk: '63 % signed',
      lists: '4 lists · 1\u202f240 names',
      rules: '14 rules · 2 failing',
      tagger: 'none yet',
      pipeline: '3 stages · v2',
      scores: 'F1 81.2 ± 2.1',
      records: '418 records · 31 open',
    })
  })
  it('show work that is going on', () => {
    expect(shown({ ...FIGURES, running: [JOB] })['tagger']).toBe('running, 60 %')
    expect(shown({ ...FIGURES, running: [{ ...JOB, state: 'waiting' }] })['tagger']).toBe('waiting')
  })
  it('leave out what is not known', () => {
    expect(shown({ ...FIGURES, scores: { f1: null, low: null, high: null }, rules_failing: 0 })).toMatchObject({
      scores: 'F1 –',
      rules: '14 rules',
    })
    expect(half({ f1_low: null, f1_high: 0.5 })).toBe('')
  })
})

describe('a training', () => {
  const epoch = (n: number, dev: number | null) => ({ epoch: n, epochs: 9, objective: 1, train_f1: 1, dev_f1: dev, best_epoch: 1 })
  it('has the best dev F1 of its epochs, if there is any', () => {
    expect(bestDev([epoch(1, 0.5), epoch(2, 0.7), epoch(3, 0.6)])).toBe(0.7)
    expect(bestDev([epoch(1, null)])).toBeUndefined()
  })
  it('says how long it may still take, once it knows', () => {
    const now = new Date('2026-08-04T10:00:12Z').getTime()
    expect(timeLeft(JOB, now)).toBe(' · 2.0 s each · at most 8 s left')
    expect(timeLeft({ ...JOB, done: 0 }, now)).toBe('')
  })
})

describe('a new type', () => {
  it('is offered the hue farthest from all others', () => {
    expect(freeHue([])).toBe(0)
    expect(freeHue([0])).toBe(12)
    expect(freeHue([0, 12])).toBe(6)
  })
  it('is offered a letter of its name that is free', () => {
    expect(freeKey('vessel', [])).toBe('v')
    expect(freeKey('vessel', ['v', 'e'])).toBe('s')
    expect(freeKey('ÄÖ', ['a'])).toBe('b')
  })
})
