import { describe, expect, it } from 'vitest'

import { mark, nextGap, rangeOf, removeAt, same, tokensOf } from './edits'

const TOKENS = [
  { start: 0, end: 3 },
  { start: 4, end: 10 },
  { start: 10, end: 11 },
]
const VES = { start: 4, end: 10, type: 'VES' }
const TIM = { start: 0, end: 3, type: 'TIM' }

describe('mark', () => {
  it('adds in reading order', () => {
    expect(mark([VES], { start: 0, end: 3 }, 'TIM')).toEqual([TIM, VES])
  })
  it('takes the place of everything that it overlaps', () => {
    expect(mark([TIM, VES], { start: 2, end: 5 }, 'ORG')).toEqual([{ start: 2, end: 5, type: 'ORG' }])
  })
  it('leaves neighbours alone', () => {
    expect(mark([VES], { start: 10, end: 11 }, 'ORG')).toHaveLength(2)
  })
  it('changes a type in place', () => {
    expect(mark([VES], VES, 'PRT')).toEqual([{ ...VES, type: 'PRT' }])
  })
})

describe('removeAt', () => {
  it('removes what the cursor touches and nothing else', () => {
    expect(removeAt([TIM, VES], { start: 9, end: 11 })).toEqual([TIM])
    expect(removeAt([TIM, VES], { start: 10, end: 11 })).toEqual([TIM, VES])
  })
})

describe('same', () => {
  it('does not mind the order but minds the type', () => {
    expect(same([TIM, VES], [VES, TIM])).toBe(true)
    expect(same([VES], [{ ...VES, type: 'PRT' }])).toBe(false)
    expect(same([], [VES])).toBe(false)
  })
})

describe('tokens and ranges', () => {
  it('go both ways, in either direction of the selection', () => {
    expect(rangeOf(TOKENS, 2, 1)).toEqual({ start: 4, end: 11 })
    expect(tokensOf(TOKENS, { start: 4, end: 11 })).toEqual([1, 2])
    expect(tokensOf(TOKENS, { start: 5, end: 6 })).toEqual([1, 1])
    expect(tokensOf(TOKENS, { start: 40, end: 41 })).toBeUndefined()
    expect(rangeOf(TOKENS, 0, 9)).toBeUndefined()
  })
})

describe('nextGap', () => {
  it('goes on from the cursor and round at the end', () => {
    expect(nextGap([VES, TIM], -1)).toBe(TIM)
    expect(nextGap([VES, TIM], 0)).toBe(VES)
    expect(nextGap([VES, TIM], 4)).toBe(TIM)
    expect(nextGap<typeof VES>([], 0)).toBeUndefined()
  })
})
