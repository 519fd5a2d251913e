import { describe, expect, it } from 'vitest'

import type { LookShown, WordShown } from '../../api/schema'
import { patternOf, type Slot, slotsOf } from './example'

const word = (start: number, end: number, more: Partial<WordShown> = {}): WordShown => ({ start, end, sentence: 0, tag: '', lemma: '', shapes: [], kinds: [], ...more })
const span = (start: number, end: number, type: string, maker: string) => ({ start, end, type, maker, source: 'lists', probability: null, why: '' })

// The pilot boarded Amber Quay, at 0410.
const FORMS = ['The', 'pilot', 'boarded', 'Amber', 'Quay', 'at', '0410']
const LOOK: LookShown = {
  words: [
    word(0, 3, { tag: 'DET', lemma: 'the', shapes: ['capital', 'letters'] }),
    word(4, 9, { tag: 'NOUN', lemma: 'pilot', shapes: ['small', 'letters'], kinds: ['person', 'artefact'] }),
    word(10, 17, { tag: 'VERB', lemma: 'board', shapes: ['small', 'letters'] }),
    word(18, 23, { tag: 'PROPN', lemma: 'amber', shapes: ['capital', 'letters'] }),
    word(24, 28, { tag: 'PROPN', lemma: 'quay', shapes: ['capital', 'letters'] }),
    word(29, 31, { tag: 'ADP', lemma: 'at', shapes: ['small', 'letters'] }),
    word(32, 36, { tag: 'NUM', lemma: '0410', shapes: ['figure'] }),
  ],
  lists: [span(18, 28, 'VES', 'ships, old'), span(18, 23, 'PER', 'people')],
  rules: [span(18, 28, 'VES', 'a rule')],
  phrases: [],
}
const labels = (slot: Slot | undefined) => slot?.ways.map(({ label }) => label)
const patterns = (slot: Slot | undefined) => slot?.ways.map(({ pattern }) => pattern)

describe('a rule from an example', () => {
  it('offers how one word may vary', () => {
    const [pilot] = slotsOf(LOOK, FORMS, 1, 1, false)
    expect(patterns(pilot)).toEqual(["'pilot'", '"pilot"', "lemma('pilot')", 'tag(NOUN)', 'small', 'letters', 'kind(person)', 'kind(artefact)', 'any'])
    expect(labels(pilot)?.slice(6, 8)).toEqual(['any word for a person', 'any word for an artefact'])
    const [the] = slotsOf(LOOK, FORMS, 0, 0, false)
    // What is not inflected has no other forms.
    expect(patterns(the)).not.toContain("lemma('the')")
  })

  it('takes a whole name as one place, the longest that fits', () => {
    const slots = slotsOf(LOOK, FORMS, 2, 6, false)
    expect(slots.map(({ first, last }) => [first, last])).toEqual([[2, 2], [3, 4], [5, 5], [6, 6]])
    expect(patterns(slots[1])).toEqual(['list("ships, old")', 'found(VES)', "'Amber Quay'"])
    // Within what is marked it is words, of which each may be another.
    expect(patternOf(slotsOf(LOOK, FORMS, 2, 4, true))).toBe("[ 'boarded' capital capital ]")
    // Half of a name that is not chosen is not one.
    const [half] = slotsOf(LOOK, FORMS, 3, 3, true)
    expect(patterns(half)?.slice(0, 2)).toEqual(['list(people)', 'found(PER)'])
  })

  it('says what is likeliest first: other names and figures where it is marked, other forms around', () => {
    const slots = [...slotsOf(LOOK, FORMS, 1, 2, false), ...slotsOf(LOOK, FORMS, 3, 4, true), ...slotsOf(LOOK, FORMS, 5, 6, false)]
    expect(patternOf(slots)).toBe("lemma('pilot') lemma('board') [ list(\"ships, old\") ] 'at' '0410'")
    expect(patternOf(slotsOf(LOOK, FORMS, 6, 6, true))).toBe('[ figure ]')
  })

  it('says how often a word may stand', () => {
    const [at, figure] = [...slotsOf(LOOK, FORMS, 5, 5, false), ...slotsOf(LOOK, FORMS, 6, 6, true)]
    if (!at || !figure) throw new Error('two places are there')
    expect(patternOf([{ ...at, times: 'optional' }, { ...figure, times: '1 or more' }])).toBe("optional 'at' [ 1 or more figure ]")
  })

  it('writes signs of the language as they are in the text', () => {
    const look = { ...LOOK, words: [word(0, 5)], lists: [], rules: [] }
    expect(patterns(slotsOf(look, ["O'Ne\\l"], 0, 0, false)[0])?.[0]).toBe("'O\\'Ne\\\\l'")
  })
})
