import { describe, expect, it } from 'vitest'

import { compared, differences, otherLane, staveSpans } from './span'

const span = (start: number, end: number, type = 'VES') => ({ start, end, type })

describe('differences', () => {
  it('is empty for equal sets in any order and names what stands on one side only', () => {
    const a = span(0, 5)
    const b = span(6, 9, 'PRT')
    expect(differences([a, b], [{ ...b }, { ...a }])).toEqual([])
    expect(differences([a], [{ ...a, type: 'PER' }])).toEqual([a, { ...a, type: 'PER' }])
    expect(differences([], [b])).toEqual([b])
  })
})

describe('spans of a lane', () => {
  it('have an id each, also equal ones of two makers, and stay the same objects', () => {
    const found = [{ ...span(0, 5), maker: 'quays', why: '' }, { ...span(0, 5), maker: 'vessels', why: 'an entry' }]
    expect(staveSpans(found).map(({ id, why }) => [id, why])).toEqual([
      ['0-5-VES', 'quays'],
      ['0-5-VES-2', 'vessels: an entry'],
    ])
    expect(staveSpans(found)).toBe(staveSpans(found))
  })

  it('say what became of them from one lane to the next', () => {
    const before = otherLane('a', 'before', [span(0, 5), span(6, 9), span(10, 12)])
    const after = otherLane('b', 'after', [span(0, 5), span(6, 9, 'PRT'), span(13, 14)])
    const changes = compared(before, after).map((lane) => lane.spans.map(({ change }) => change))
    expect(changes).toEqual([
      [undefined, 'changed', 'removed'],
      [undefined, 'changed', 'added'],
    ])
  })
})
