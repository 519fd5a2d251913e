import { describe, expect, it } from 'vitest'

import { boundAt, differences, type Lane, place, placeOf, setText, stack, tokenNear } from './layout'

const measure = (words: string) => Array.from(words).length * 10
const WORDS = 'The Corrie Lindmoor, from Lindmoor.'

function tokensOf(words: string, start = 0) {
  return [...words.matchAll(/\w+|[^\s\w]/gu)].map((m) => {
    const from = Array.from(words.slice(0, m.index)).length
    return { start: start + from, end: start + from + Array.from(m[0]).length }
  })
}

const span = (start: number, end: number, type = 'VES') => ({ start, end, type })

describe('setText', () => {
  it('sets words as in the body: punctuation close up, spaces where they are', () => {
    const [line] = setText(WORDS, 0, tokensOf(WORDS), 1000, measure)
    expect(line?.map((t) => [t.words, t.x])).toEqual([
      ['The', 0],
      ['Corrie', 40],
      ['Lindmoor', 110],
      [',', 190],
      ['from', 210],
      ['Lindmoor', 260],
      ['.', 340],
    ])
  })

  it('breaks at white space only and begins each line at the left', () => {
    const lines = setText(WORDS, 0, tokensOf(WORDS), 195, measure)
    expect(lines.map((line) => line.map((t) => t.words).join('|'))).toEqual(['The|Corrie|Lindmoor|,', 'from|Lindmoor|.'])
    expect(lines.map((line) => line[0]?.x)).toEqual([0, 0])
  })

  it('lets a token that is wider than the line stand alone', () => {
    expect(setText(WORDS, 0, tokensOf(WORDS), 5, measure)).toHaveLength(5)
  })

  it('counts code points, also before the sentence', () => {
    const words = '🚢 Pellin 🚢 in'
    const [line] = setText(words, 7, tokensOf(words, 7), 1000, measure)
    expect(line?.map((t) => t.words)).toEqual(['🚢', 'Pellin', '🚢', 'in'])
    expect(line?.[1]?.start).toBe(9)
  })

  it('draws nothing for no tokens', () => {
    expect(setText('', 0, [], 100, measure)).toEqual([])
  })
})

describe('stack', () => {
  it('gives overlapping spans rows of their own, the longest on top', () => {
    const long = span(0, 20)
    const short = span(4, 9, 'PER')
    const apart = span(21, 25, 'PRT')
    const rows = stack([short, apart, long])
    expect([rows.get(long), rows.get(short), rows.get(apart)]).toEqual([0, 1, 0])
  })
})

describe('place', () => {
  const gold: Lane = { name: 'gold', label: 'Gold', kind: 'gold', spans: [span(4, 19)] }
  const lists: Lane = { name: 'lists', label: 'Lists', kind: 'evidence', spans: [span(4, 19), span(11, 19, 'PRT')] }

  it('puts bars under their words', () => {
    const [system] = place(setText(WORDS, 0, tokensOf(WORDS), 1000, measure), [gold, lists], [])
    const [bar] = system?.lanes[0]?.bars ?? []
    expect([bar?.x, bar?.width, bar?.fromBefore, bar?.toAfter]).toEqual([40, 150, false, false])
    expect(system?.lanes[1]?.rows).toBe(2)
  })

  it('splits a span over a line break without ticks at the break', () => {
    const systems = place(setText(WORDS, 0, tokensOf(WORDS), 105, measure), [gold], [])
    const bars = systems.flatMap((system) => system.lanes[0]?.bars ?? [])
    expect(bars.map((bar) => [bar.fromBefore, bar.toAfter])).toEqual([
      [false, true],
      [true, false],
    ])
  })

  it('marks where sources differ, on every line that it touches', () => {
    const systems = place(setText(WORDS, 0, tokensOf(WORDS), 105, measure), [gold], [span(4, 19)])
    expect(systems.map((system) => system.columns.length)).toEqual([1, 1, 0, 0].slice(0, systems.length))
  })

  it('draws one column where two types differ on the same words', () => {
    const [system] = place(setText(WORDS, 0, tokensOf(WORDS), 1000, measure), [gold], [span(4, 19), span(4, 19, 'PER'), span(4, 10)])
    expect(system?.columns.map((c) => [c.x, c.width])).toEqual([
      [40, 150],
      [40, 60],
    ])
  })

  it('places 120 tokens in 6 lanes', () => {
    const words = Array.from({ length: 120 }, (_, i) => `word${i}`).join(' ')
    const tokens = tokensOf(words)
    const spans = tokens.filter((_, i) => i % 3 === 0).map((t) => ({ ...t, type: 'VES' }))
    const lanes = Array.from({ length: 6 }, (_, i): Lane => ({ ...gold, name: String(i), spans }))
    const systems = place(setText(words, 0, tokens, 640, measure), lanes, spans)
    expect(systems.flatMap((s) => s.tokens)).toHaveLength(120)
    expect(systems.flatMap((s) => s.lanes.flatMap((l) => l.bars))).toHaveLength(240)
  })
})

describe('differences', () => {
  it('is empty for equal sets in any order and names what stands on one side only', () => {
    const a = span(0, 5)
    const b = span(6, 9, 'PRT')
    expect(differences([a, b], [{ ...b }, { ...a }])).toEqual([])
    expect(differences([a], [{ ...a, type: 'PER' }])).toEqual([a, { ...a, type: 'PER' }])
    expect(differences([], [b])).toEqual([b])
  })
})

describe('places on a line', () => {
  const [line = []] = setText(WORDS, 100, tokensOf(WORDS, 100), 1000, measure)
  it('are found for code points within words, and the other way round', () => {
    expect(placeOf(line, 104, measure)).toBe(40)
    expect(placeOf(line, 107, measure)).toBe(70)
    expect(placeOf(line, 400, measure)).toBeNull()
    const corrie = { start: 104, words: 'Corrie' }
    expect([0, 14, 16, 900].map((x) => boundAt(corrie, x, measure))).toEqual([104, 105, 106, 110])
  })
  it('belong to the token that stands there or comes next, at the end to the last', () => {
    expect([0, 35, 105, 9000].map((x) => tokenNear(line, x)?.words)).toEqual(['The', 'Corrie', 'Lindmoor', '.'])
    expect(tokenNear([], 3)).toBeUndefined()
  })
})
