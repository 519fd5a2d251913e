import bidiFactory from 'bidi-js'

import { CodePoints } from '../api/offsets'
import type { Range } from './span'

export interface PlacedToken extends Range {
  index: number
  words: string
  /** In pixels from the left, whichever way it reads. */
  x: number
  width: number
  /** Does it read from right to left? */
  back: boolean
}

/** Width of words in pixels, as the stave's text is set. */
export type Measure = (words: string) => number

export type Direction = 'ltr' | 'rtl'

// Of scripts that are written from right to left; Hebrew and Arabic blocks with their neighbours and presentation forms.
const BACKWARDS = /[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}\p{Script=Nko}\p{Script=Adlam}]/u
const STRONG = /\p{L}/u
// Scripts that are written without spaces, where a line may break between words.
const UNSPACED = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]/u
// What may not begin a line in Chinese and Japanese, and what may not end one.
const NO_START = /^[、。，．・：；？！ー～…‥）〕］｝〉》」』】〙〗％‰ぁぃぅぇぉっゃゅょゎァィゥェォッャュョヮヵヶ々,.:;?!)\]}%]/u
const NO_END = /[（〔［｛〈《「『【〘〖([{]$/u

/** Which way a sentence reads: by its first letter. */
export function directionOf(words: string): Direction {
  return BACKWARDS.test(STRONG.exec(words)?.[0] ?? '') ? 'rtl' : 'ltr'
}

const bidi = bidiFactory()

/** Where a line may break besides white space, as offsets of the body. */
function wordStarts(words: string, start: number, lang: string | undefined): ReadonlySet<number> | undefined {
  if (!UNSPACED.test(words)) return undefined
  const starts = new Set<number>()
  let at = start
  for (const { segment } of new Intl.Segmenter(lang, { granularity: 'word' }).segment(words)) {
    starts.add(at)
    at += Array.from(segment).length
  }
  return starts
}

interface Item {
  token: Omit<PlacedToken, 'x' | 'back'> | undefined
  width: number
  at: number
}

/** Set the tokens as natural text into lines no wider than `width`: each line's tokens in reading order, placed where they are drawn. */
export function setText(
  words: string,
  start: number,
  tokens: readonly Range[],
  width: number,
  measure: Measure,
  lang?: string,
): PlacedToken[][] {
  const points = new CodePoints(words, start)
  const starts = wordStarts(words, start, lang)
  const order = visualOrder(words, start)
  const lines: PlacedToken[][] = []
  let line: Item[] = []
  let used = 0
  let before = start
  let last = ''
  const close = () => {
    if (line.length > 0) lines.push(order(line, width))
    line = []
    used = 0
  }
  tokens.forEach(({ start: from, end: to }, index) => {
    const text = points.slice(from, to)
    const gap = points.slice(before, from)
    const room = line.length > 0 && gap !== '' ? measure(/\S/.test(gap) ? gap : gap.replace(/\s/g, ' ')) : 0
    const own = measure(text)
    // A token wider than the line stands alone and runs over.
    const mayBreak = gap !== '' || (starts?.has(from) === true && !NO_START.test(text) && !NO_END.test(last) && (UNSPACED.test(text) || UNSPACED.test(last)))
    if (line.length > 0 && mayBreak && used + room + own > width) close()
    else if (room > 0) {
      line.push({ token: undefined, width: room, at: before })
      used += room
    }
    line.push({ token: { index, start: from, end: to, words: text, width: own }, width: own, at: from })
    used += own
    before = to
    last = text
  })
  close()
  return lines
}

/** How a line of items is drawn: one after the other, or, with letters that read backwards in it, as Unicode's UAX #9 orders them. */
function visualOrder(words: string, start: number): (line: readonly Item[], width: number) => PlacedToken[] {
  if (!BACKWARDS.test(words)) return (line) => placed(line, () => 0, 0)
  const rtl = directionOf(words) === 'rtl'
  const { levels } = bidi.getEmbeddingLevels(words, rtl ? 'rtl' : 'ltr')
  const units: number[] = []
  let unit = 0
  for (const character of words) {
    units.push(unit)
    unit += character.length
  }
  const levelOf = (item: Item) => levels[units[item.at - start] ?? 0] ?? Number(rtl)
  return (line, width) => {
    const wide = line.reduce((sum, item) => sum + item.width, 0)
    return placed(reordered(line, levelOf), levelOf, rtl ? Math.max(0, width - wide) : 0)
  }
}

/** Rule L2: from the highest level down to the lowest odd one, every run of at least that level is turned round. */
function reordered(line: readonly Item[], levelOf: (item: Item) => number): Item[] {
  const items = [...line]
  const all = items.map(levelOf)
  const highest = Math.max(0, ...all)
  const lowest = Math.min(...all.filter((level) => level % 2 === 1), highest + 1)
  for (let level = highest; level >= lowest; level--) {
    for (let from = 0; from < items.length; from++) {
      let to = from
      while (to < items.length && levelOf(items[to] as Item) >= level) to++
      if (to > from) {
        items.splice(from, to - from, ...items.slice(from, to).reverse())
        from = to
      }
    }
  }
  return items
}

function placed(items: readonly Item[], levelOf: (item: Item) => number, from: number): PlacedToken[] {
  let x = from
  const tokens: PlacedToken[] = []
  for (const item of items) {
    if (item.token) tokens.push({ ...item.token, x, back: levelOf(item) % 2 === 1 })
    x += item.width
  }
  return tokens.sort((one, other) => one.index - other.index)
}

/** Where a code point of the body begins on a line, in pixels from its left. */
export function placeOf(tokens: readonly PlacedToken[], offset: number, measure: Measure): number | null {
  const token = tokens.find((t) => t.start <= offset && offset <= t.end)
  if (!token) return null
  const into = measure(new CodePoints(token.words, token.start).slice(token.start, offset))
  return token.back ? token.x + token.width - into : token.x + into
}

/** The code point bound nearest to a place within a token, `x` in pixels from the token's left. */
export function boundAt(token: Pick<PlacedToken, 'start' | 'words' | 'width' | 'back'>, x: number, measure: Measure): number {
  const points = new CodePoints(token.words, token.start)
  const into = token.back ? token.width - x : x
  let nearest = token.start
  let least = Number.POSITIVE_INFINITY
  for (let bound = token.start; bound <= points.end; bound++) {
    const away = Math.abs(measure(points.slice(token.start, bound)) - into)
    if (away < least) [nearest, least] = [bound, away]
  }
  return nearest
}

/** The token of a line that is nearest to a place on it. */
export function tokenNear(tokens: readonly PlacedToken[], x: number): PlacedToken | undefined {
  const drawn = [...tokens].sort((one, other) => one.x - other.x)
  return drawn.find((t) => x < t.x + t.width) ?? drawn.at(-1)
}
