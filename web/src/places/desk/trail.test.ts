import { beforeEach, describe, expect, it } from 'vitest'

import { forget, nextStep, passed, record, type Step } from './trail'

const STOOD = { state: 'draft', spans: [], turned_down: [], question: '', answer: '' }
const step = (token: string): Step => ({ sentence: 1, token, before: STOOD, after: STOOD })
const next = () => [nextStep('p', 'undo')?.token, nextStep('p', 'redo')?.token]

beforeEach(() => forget())

describe('the trail of acts', () => {
  it('goes back and forth', () => {
    record('p', step('a'))
    record('p', step('b'))
    expect(next()).toEqual(['b', undefined])
    passed('p', 'undo')
    expect(next()).toEqual(['a', 'b'])
    passed('p', 'undo')
    expect(next()).toEqual([undefined, 'a'])
    passed('p', 'redo')
    expect(next()).toEqual(['a', 'b'])
  })

  it('does nothing again after a new act', () => {
    record('p', step('a'))
    passed('p', 'undo')
    record('p', step('b'))
    expect(next()).toEqual(['b', undefined])
  })

  it('keeps the place of acts that only the server knows', () => {
    record('p', step('a'))
    record('p', null)
    record('p', step('b'))
    passed('p', 'undo')
    expect(next()).toEqual([undefined, 'b'])
    passed('p', 'undo')
    expect(next()).toEqual(['a', undefined])
    // Before the page was opened there were acts too.
    passed('p', 'undo')
    passed('p', 'undo')
    expect(next()).toEqual([undefined, undefined])
    passed('p', 'redo')
    expect(next()).toEqual([undefined, 'a'])
  })

  it('is one for each project, and can be forgotten', () => {
    record('p', step('a'))
    record('q', step('b'))
    forget('q')
    expect(next()).toEqual(['a', undefined])
    expect(nextStep('q', 'undo')).toBeNull()
  })
})
