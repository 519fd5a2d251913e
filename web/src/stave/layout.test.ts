import { describe, expect, it } from 'vitest'

import { place as placeWith, stack, stretches } from './layout'
import { boundAt, directionOf, placeOf, type PlacedToken, setText, tokenNear } from './setting'
import type { Lane, Range } from './span'

const measure = (words: string) => Array.from(words).length * 10
const WORDS = 'The Corrie Lindmoor, from Lindmoor.'

function tokensOf(words: string, start = 0) {
  return [...words.matchAll(/\w+|[^\s\w]/gu)].map((m) => {
    const from = Array.from(words.slice(0, m.index)).length
    return { start: start + from, end: start + from + Array.from(m[0]).length }
  })
}

const span = (start: number, end: number, type = 'VES') => ({ id: `${start}-${end}-${type}`, start, end, type })
const place = (lines: PlacedToken[][], lanes: Lane[], differing: Range[]) => placeWith(lines, lanes, differing, measure)

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
  const gold: Lane = { id: 'gold', label: 'Gold', look: 'bar', ground: true, spans: [span(4, 19)] }
  const lists: Lane = { id: 'lists', label: 'Lists', look: 'dimension', spans: [span(4, 19), span(11, 19, 'PRT')] }

  it('puts bars under their words', () => {
    const [system] = place(setText(WORDS, 0, tokensOf(WORDS), 1000, measure), [gold, lists], [])
    const [bar] = system?.lanes[0]?.bars ?? []
    expect([bar?.x, bar?.width, bar?.left, bar?.right]).toEqual([40, 150, 'start', 'end'])
    expect(system?.lanes[1]?.rows).toBe(2)
  })

  it('splits a span over a line break without ticks at the break', () => {
    const systems = place(setText(WORDS, 0, tokensOf(WORDS), 105, measure), [gold], [])
    const bars = systems.flatMap((system) => system.lanes[0]?.bars ?? [])
    expect(bars.map((bar) => [bar.left, bar.right])).toEqual([
      ['start', null],
      [null, 'end'],
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
    const spans = tokens.filter((_, i) => i % 3 === 0).map((t) => (span(t.start, t.end)))
    const lanes = Array.from({ length: 6 }, (_, i): Lane => ({ ...gold, id: String(i), spans }))
    const systems = place(setText(words, 0, tokens, 640, measure), lanes, spans)
    expect(systems.flatMap((s) => s.tokens)).toHaveLength(120)
    expect(systems.flatMap((s) => s.lanes.flatMap((l) => l.bars))).toHaveLength(240)
  })
})

describe('places on a line', () => {
  const [line = []] = setText(WORDS, 100, tokensOf(WORDS, 100), 1000, measure)
  it('are found for code points within words, and the other way round', () => {
    expect(placeOf(line, 104, measure)).toBe(40)
    expect(placeOf(line, 107, measure)).toBe(70)
    expect(placeOf(line, 400, measure)).toBeNull()
    const corrie = { start: 104, words: 'Corrie', width: 60, back: false }
    expect([0, 14, 16, 900].map((x) => boundAt(corrie, x, measure))).toEqual([104, 105, 106, 110])
  })
  it('belong to the token that stands there or comes next, at the end to the last', () => {
    expect([0, 35, 105, 9000].map((x) => tokenNear(line, x)?.words)).toEqual(['The', 'Corrie', 'Lindmoor', '.'])
    expect(tokenNear([], 3)).toBeUndefined()
  })
})

describe('a span within a word', () => {
  it('is drawn under its own letters', () => {
    const [line = []] = setText(WORDS, 0, tokensOf(WORDS), 1000, measure)
    expect(stretches(line, { start: 5, end: 7 }, measure)).toEqual([{ x: 50, width: 20, left: 'start', right: 'end' }])
    expect(stretches(line, { start: 6, end: 13 }, measure)).toEqual([{ x: 60, width: 70, left: 'start', right: 'end' }])
  })
})

/** Tokens as the server cuts them: runs of letters, but each sign of an unspaced script alone. */
const cut = (words: string) =>
  [...words.matchAll(/[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]|[^\s\p{P}\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]+|\p{P}/gu)].map((m) => {
    const start = Array.from(words.slice(0, m.index)).length
    return { start, end: start + Array.from(m[0]).length }
  })
const set = (words: string, width: number, lang?: string) => setText(words, 0, cut(words), width, measure, lang)
const drawn = (line: readonly PlacedToken[] = []) => [...line].sort((a, b) => a.x - b.x).map((t) => t.words)

describe('scripts without spaces', () => {
  it('break between words, and never before what closes', () => {
    const words = '会议在上海举行。'
    for (let width = 10; width <= 90; width += 10) {
      const lines = set(words, width, 'zh').map((line) => line.map((t) => t.words).join(''))
      expect(lines.join('')).toBe(words)
      // Shanghai is one word, and so is a meeting.
      if (width >= 20) expect(lines.every((line) => !line.endsWith('上') && !line.endsWith('会'))).toBe(true)
      expect(lines.every((line) => !line.startsWith('。'))).toBe(true)
    }
  })
  it('break nowhere inside a run of Latin letters', () => {
    expect(set('見たAmberは', 50, 'ja').map((line) => line.map((t) => t.words).join(''))).toEqual(['見た', 'Amber', 'は'])
  })
})

describe('text that reads from right to left', () => {
  const WORDS = 'הגיעה Amber 12 אתמול.'
  it('is known by its first letter', () => {
    expect([directionOf(WORDS), directionOf('“Amber” הגיעה'), directionOf('12 هنا'), directionOf('12.')]).toEqual(['rtl', 'ltr', 'rtl', 'ltr'])
  })
  it('is drawn from the right, names and figures in it the other way', () => {
    const [line] = set(WORDS, 400)
    expect(drawn(line)).toEqual(['.', 'אתמול', 'Amber', '12', 'הגיעה'])
    const first = line?.[0]
    expect((first?.x ?? 0) + (first?.width ?? 0)).toBe(400)
    expect(line?.map((t) => t.back)).toEqual([true, false, false, true, true])
  })
  it('has its spans where its letters are, with the beginning to the right', () => {
    const [line = []] = set(WORDS, 210)
    expect(stretches(line, { start: 0, end: 5 }, measure)).toEqual([{ x: 160, width: 50, left: 'end', right: 'start' }])
    expect(stretches(line, { start: 6, end: 14 }, measure)).toEqual([{ x: 70, width: 80, left: 'start', right: 'end' }])
    // The last word of the name and the word after it lie apart on the page.
    expect(stretches(line, { start: 12, end: 20 }, measure)).toEqual([
      { x: 10, width: 50, left: 'end', right: null },
      { x: 130, width: 20, left: 'start', right: null },
    ])
  })
  it('finds bounds within a word from its right', () => {
    const [line = []] = set(WORDS, 210)
    expect(placeOf(line, 1, measure)).toBe(200)
    expect(boundAt(line[0] as PlacedToken, 40, measure)).toBe(1)
    expect(tokenNear(line, 0)?.words).toBe('.')
  })
})
