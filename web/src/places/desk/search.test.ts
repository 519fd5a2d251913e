import { describe as group, expect, it } from 'vitest'

import { SCHEME } from '../../test/fake'
import { describe, formOf, meansGold, NO_SEARCH, searchOf } from './search'

group('a search', () => {
  it('says only what its form says, with probabilities as parts', () => {
    const form = { ...NO_SEARCH, words: ' tug ', source: 'tagger', least: '25,5', most: '80' }
    const search = searchOf(form)
    expect(search).toEqual({ words: 'tug', source: 'tagger', least: 0.255, most: 0.8 })
    expect(formOf(search)).toEqual({ ...form, words: 'tug', least: '25.5' })
    expect(searchOf({ ...NO_SEARCH, title: '  ' })).toBeNull()
  })

  it('is said in words', () => {
    expect(describe({ type: 'VES', named: 'Pellin' }, SCHEME.types)).toBe('vessel “Pellin” in gold')
    expect(describe({ source: 'tagger', least: 0.4, most: 0.6 }, SCHEME.types)).toBe('from 40 % up to 60 % in tagger')
    expect(describe({ words: 'tug', state: 'empty', group: 'week-33' }, SCHEME.types)).toBe('“tug” · signed as empty · group week-33')
  })

  it('can be corrected where it says which gold spans it means', () => {
    expect(meansGold({ type: 'VES' })).toBe(true)
    expect(meansGold({ named: 'Pellin' })).toBe(true)
    expect(meansGold({ type: 'VES', source: 'lists' })).toBe(false)
    expect(meansGold({ words: 'tug' })).toBe(false)
  })
})
