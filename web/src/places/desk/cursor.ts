import { CodePoints } from '../../api/offsets'
import type { DeskSentenceShown } from '../../api/schema'
import type { Selection } from '../../stave/Stave'
import { neighbour, nextRun, nextWord, type Range, rangeOf, tokensOf } from './edits'
import type { Sight } from './evidence'

/** Moves of the cursor. Each is given where it stands and says where it goes; undefined where it cannot. */
export type Move = (at: Selection) => Selection | undefined

/** The code points that are selected. */
export function selectedRange(tokens: readonly Range[], at: Selection): Range | undefined {
  return at.within ?? rangeOf(tokens, at.anchor, at.head)
}

/** Is there nothing but the cursor? */
export const isCursor = ({ anchor, head, within }: Selection) => anchor === head && !within

/** To a token, from the selection's other end if it is to widen. */
export const toToken =
  (tokens: readonly Range[], token: number, widen = false): Move =>
  ({ anchor }) => {
    const head = Math.max(0, Math.min(tokens.length - 1, token))
    return { anchor: widen ? anchor : head, head }
  }

/** To the tokens that a range touches. */
export const toRange =
  (tokens: readonly Range[], range: Range | undefined): Move =>
  () => {
    const place = range && tokensOf(tokens, range)
    return place && { anchor: place[0], head: place[1] }
  }

const wordsOf = ({ words, start, tokens }: DeskSentenceShown) => {
  const points = new CodePoints(words, start)
  return tokens.map((token) => points.slice(token.start, token.end))
}

export const toWord =
  (sentence: DeskSentenceShown, by: 1 | -1): Move =>
  (at) =>
    toToken(sentence.tokens, nextWord(wordsOf(sentence), at.head, by))(at)

/** To the next run of words that looks like a name or a figure. */
export const toRun =
  (sentence: DeskSentenceShown, by: 1 | -1): Move =>
  ({ anchor, head }) => {
    const [from, to] = nextRun(wordsOf(sentence), Math.min(anchor, head), Math.max(anchor, head), by)
    return { anchor: from, head: to }
  }

/** The selection's end one character on or back, also within a token. */
export const byCharacter =
  (sentence: DeskSentenceShown, by: 1 | -1): Move =>
  (at) => {
    const range = selectedRange(sentence.tokens, at)
    const end = (range?.end ?? 0) + by
    return range && end > range.start && end <= sentence.end ? { ...at, within: { start: range.start, end } } : undefined
  }

/** Where the cursor stands at first: where a link says, at the first gap, or at the first word. */
export function startOf({ tokens }: DeskSentenceShown, { resolved, differing }: Pick<Sight, 'resolved' | 'differing'>, at: number | null): Selection {
  const range = at === null ? neighbour(resolved.length > 0 ? differing : [], -1, 1) : { start: at, end: at + 1 }
  const first = { anchor: 0, head: 0 }
  return toRange(tokens, range)(first) ?? first
}
