import { describe, expect, it } from 'vitest'

import { stepped } from './RowList'
import { longDate, moment, number, percent, plural, score, share } from './words'
import { linesOf } from './controls'

describe('words', () => {
  it('groups figures with a narrow space', () => {
    expect(number(1240)).toBe('1\u202f240')
    expect(number(12)).toBe('12')
  })
  it('counts with the right noun', () => {
    expect([plural(0, 'text'), plural(1, 'text'), plural(2, 'text')]).toEqual(['0 texts', '1 text', '2 texts'])
    expect(plural(2, 'entry', 'entries')).toBe('2 entries')
  })
  it('shows scores with one decimal and nothing where there is none', () => {
    expect([score(0.8124), score(1), score(null), score(undefined)]).toEqual(['81.2', '100.0', '–', '–'])
  })
  it('divides by nothing safely', () => {
    expect([percent(1, 3), percent(0, 0)]).toEqual(['33 %', '0 %'])
    expect([share(1, 3), share(0, 0)]).toEqual(['33 %', '–'])
  })
  it('says the day of what was not today', () => {
    const now = new Date('2026-08-04T12:00:00')
    expect(moment('2026-08-04T10:42:00', now)).toBe('10:42')
    expect(moment('2026-08-03T10:42:00', now)).toBe('3 Aug 10:42')
    expect(longDate('2026-08-04')).toMatch(/^Tuesday,? 4 August 2026$/)
  })
})

describe('stepped', () => {
  const rows = [{ id: 1 }, { id: 2 }, { id: 3 }]
  const id = (row: { id: number }) => row.id
  it('stays within the list', () => {
    expect(stepped(rows, id, 2, 1)?.id).toBe(3)
    expect(stepped(rows, id, 3, 1)?.id).toBe(3)
    expect(stepped(rows, id, 1, -1)?.id).toBe(1)
    expect(stepped(rows, id, null, 1)?.id).toBe(1)
    expect(stepped([], id, 1, 1)).toBeUndefined()
  })
})

describe('linesOf', () => {
  it('drops empty lines and outer spaces', () => {
    expect(linesOf(' a \n\n b c\n')).toEqual(['a', 'b c'])
  })
})
