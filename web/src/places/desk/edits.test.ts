import { describe, expect, it } from 'vitest'

import {
  join, mark, neighbour, nameRuns, nextGap, nextRun, nextWord, nudged, rangeOf, rebound, removeAt, retype, same, spanAt, split, tokensOf,
} from './edits'

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

describe('schemes whose spans overlap', () => {
  const inner = { start: 4, end: 10, type: 'PRT' }
  const outer = { start: 0, end: 10, type: 'ORG' }
  const crossing = { start: 4, end: 11, type: 'BTH' }
  it('may keep what lies within', () => {
    expect(mark([inner], outer, 'ORG', 'nested')).toEqual([outer, inner])
    expect(mark([outer], inner, 'PRT', 'nested')).toEqual([outer, inner])
    expect(mark([outer, inner], crossing, 'BTH', 'nested')).toEqual([inner, crossing])
  })
  it('may keep what crosses, with one type to a range', () => {
    expect(mark([outer], crossing, 'BTH', 'free')).toEqual([outer, crossing])
    expect(mark([outer], outer, 'PRT', 'free')).toEqual([{ ...outer, type: 'PRT' }])
  })
})

describe('the span that is meant', () => {
  const inner = { start: 4, end: 10 }
  const outer = { start: 0, end: 10 }
  it('is the very one, else the shortest that holds the selection, else one that it touches', () => {
    expect(spanAt([outer, inner], outer)).toBe(outer)
    expect(spanAt([outer, inner], { start: 5, end: 6 })).toBe(inner)
    expect(spanAt([outer], { start: 8, end: 11 })).toBe(outer)
    expect(spanAt([outer], { start: 10, end: 11 })).toBeUndefined()
  })
})

describe('changing a span', () => {
  it('moves a bound by tokens, never past the other one or the sentence', () => {
    expect(nudged(TOKENS, VES, 'end', 1)).toEqual({ start: 4, end: 11 })
    expect(nudged(TOKENS, VES, 'start', -1)).toEqual({ start: 0, end: 10 })
    expect(nudged(TOKENS, VES, 'end', -1)).toBeUndefined()
    expect(nudged(TOKENS, VES, 'start', -2)).toBeUndefined()
    expect(rebound([TIM, VES], VES, { start: 0, end: 10 }, 'apart')).toEqual([{ start: 0, end: 10, type: 'VES' }])
  })
  it('splits before a later token only', () => {
    const whole = { start: 0, end: 11, type: 'VES' }
    expect(split([whole], whole, TOKENS, 1)).toEqual([{ ...whole, end: 3 }, { ...whole, start: 4 }])
    expect(split([whole], whole, TOKENS, 0)).toBeUndefined()
    expect(split([TIM], TIM, TOKENS, 1)).toBeUndefined()
  })
  it('joins with the next one and keeps the first type', () => {
    expect(join([TIM, VES], TIM, 'apart')).toEqual([{ start: 0, end: 10, type: 'TIM' }])
    expect(join([TIM, VES], VES, 'apart')).toBeUndefined()
  })
  it('changes the type of that span alone', () => {
    expect(retype([TIM, VES], VES, 'PRT')).toEqual([TIM, { ...VES, type: 'PRT' }])
  })
})

describe('going by spans and by words', () => {
  it('finds the next span either way', () => {
    expect(neighbour([VES, TIM], 0, 1)).toBe(VES)
    expect(neighbour([VES, TIM], 4, -1)).toBe(TIM)
    expect(neighbour([VES, TIM], 4, 1)).toBeUndefined()
  })
  it('goes past punctuation, and to the end where no word is left', () => {
    const words = ['The', ',', '“', 'Élan', '.']
    expect(nextWord(words, 0, 1)).toBe(3)
    expect(nextWord(words, 3, 1)).toBe(4)
    expect(nextWord(words, 3, -1)).toBe(0)
  })
})

describe('runs that look like names or figures', () => {
  const texts = (words: readonly string[]) => nameRuns(words).map(([from, to]) => words.slice(from, to + 1).join(' '))
  it('never begin with the first word, and end where the kind changes', () => {
    const words = 'The Amber Quay took 3,200 t for Vane & Daughters at 0410 Sill Wharf 4'.split(' ')
    expect(texts(words)).toEqual(['Amber Quay', '3,200 t', 'Vane & Daughters', '0410', 'Sill Wharf 4'])
    expect(texts(['Pellin', 'sailed', 'at', '0600', 'on', 'time'])).toEqual(['0600'])
    expect(texts([])).toEqual([])
  })
  it('are gone through either way, past the last one by words', () => {
    const words = ['In', 'came', 'Amber', 'Quay', ',', 'then', 'Pellin', 'left']
    expect(nextRun(words, 0, 0, 1)).toEqual([2, 3])
    expect(nextRun(words, 2, 3, 1)).toEqual([6, 6])
    expect(nextRun(words, 6, 6, 1)).toEqual([7, 7])
    expect(nextRun(words, 6, 6, -1)).toEqual([2, 3])
    expect(nextRun(words, 2, 3, -1)).toEqual([1, 1])
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
