import { describe, expect, it } from 'vitest'

import { featureWords } from './featureWords'

const say = (feature: string, offset = 0) => {
  const { what, where } = featureWords(feature, offset)
  return where ? `${what} @ ${where}` : what
}

describe('features in plain words', () => {
  it.each([
    ['word=from', -1, 'word “from” @ the word before'],
    ['form=II', 1, 'written “II” @ the word after'],
    ['ends=er', 0, 'ends “er”'],
    ['holds=a=b', 2, 'holds “a=b” @ two after'],
    ['class 2=13', -2, 'word class 13, fine @ two before'],
    ['all capitals', 0, 'in capitals'],
    ['lexicon person', -1, 'in the lexicon: person @ the word before'],
    ['lexicon name of place', 0, 'in the lexicon: name, place'],
    ['lexicon several', 0, 'in the lexicon: several kinds of things'],
    ['lexicon name of group, inside', 0, 'phrase in the lexicon: name, group, goes on'],
    ['repeated in the text', 0, 'comes again in the text'],
    ['elsewhere after=from', 0, 'elsewhere in the text before “from”'],
    ['pair before=the salt', 0, 'with the word before: “the salt”'],
    ['move from VES inside to outside', 0, 'move from VES inside to outside'],
  ])('%s', (feature, offset, words) => {
    expect(say(feature, offset)).toBe(words)
  })

  it('counts the signs of a shape, not those of an outline', () => {
    expect(say('shape=Aaaa')).toBe('a capital, then 3 small letters')
    expect(say('shape=99')).toBe('2 figures')
    expect(say('outline=A+9')).toBe('capitals, then a figure')
    expect(say('outline=a+')).toBe('small letters')
  })

  it('shows a shape that is easier seen than told', () => {
    expect(say('shape=9+')).toBe('shape 9+')
    expect(say('outline=9+,9+')).toBe('shape 9+,9+')
    expect(say('outline=Aa+A')).toBe('shape Aa+A')
  })

  it('says where evidence stands that a token sees', () => {
    expect(say('lists CGO begins')).toBe('lists: CGO begins')
    expect(say('rules DAT inside -1')).toBe('rules: DAT goes on @ the word before')
    expect(say('repeats VES begins +2')).toBe('same words elsewhere: VES begins @ two after')
    expect(say('lists “old = ships” VES begins')).toBe('list “old = ships”: VES begins')
    expect(say('rules “week “day”” DAT inside -1')).toBe('rule “week “day””: DAT goes on @ the word before')
  })

  it('says where a sentence begins and ends', () => {
    expect(say('beyond the sentence', -1)).toBe('the sentence begins here')
    expect(say('beyond the sentence', 2)).toBe('the sentence ends here')
  })
})
