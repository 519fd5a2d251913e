import { describe, expect, it } from 'vitest'

import { offersAt, opensNames, pieceOf } from './language'

const NAMES = { types: [{ code: 'VES', name: 'vessel' }], lists: ['ports', 'agents (old)'], fragments: ['a day'], tags: [{ tag: 'NOUN', about: 'noun: pilot' }], kinds: ['person'] }
const labels = (before: string) => offersAt(before, NAMES)?.offers.map(({ label }) => label)

describe('pieces of a pattern', () => {
  it.each([
    ["'pilot' [", false, 'words', 7],
    ["'don\\'t' x", false, 'words', 8],
    ['"Trust"', false, 'words', 7],
    ["'open", false, 'words', 5],
    ['/a\\/b/)', false, 'expression', 6],
    ['# to the end [', false, 'remark', 14],
    ['[ capital', false, 'mark', 1],
    ['12 any', false, 'count', 2],
    ['capitals', false, 'shape', 8],
    ['unless x', false, 'word', 6],
    ['nothing', false, 'other', 7],
    ['Tessmar ports, b', true, 'name', 13],
    ['{', false, 'other', 1],
  ])('%s', (rest, within, kind, length) => {
    expect(pieceOf(rest, within)).toEqual({ kind, length })
  })

  it('knows where names stand', () => {
    expect(opensNames('[ list(')).toBe(true)
    expect(opensNames('use (')).toBe(true)
    expect(opensNames('tag(')).toBe(true)
    expect(opensNames('lemma(')).toBe(false)
    expect(opensNames('length(')).toBe(false)
    expect(opensNames('(')).toBe(false)
  })
})

describe('what may stand next', () => {
  it('offers lists, types and fragments within their brackets', () => {
    expect(labels("'a' list(po")).toEqual(['ports', 'agents (old)'])
    expect(labels('found(')).toEqual(['VES'])
    expect(labels('list(ports, ')).toEqual(['ports', 'agents (old)'])
    expect(labels('use(')).toEqual(['a day'])
    expect(offersAt('tag(N', NAMES)).toEqual({ from: 4, offers: [{ label: 'NOUN', apply: 'NOUN', detail: 'noun: pilot' }] })
    expect(labels('kind(')).toEqual(['person'])
    expect(offersAt('list(a', NAMES)?.offers[1]?.apply).toBe('"agents (old)"')
  })

  it('offers types behind a mark and where spans are dropped', () => {
    expect(labels('[capital] as V')).toEqual(['VES'])
    expect(labels("'a'\ndrop ")).toEqual(['VES'])
  })

  it('offers what begins a line only there', () => {
    expect(labels("'a'\nun")).toContain('unless')
    expect(labels("'a' un")).not.toContain('unless')
    expect(labels("'a' ca")).toContain('capital')
  })

  it('counts from where the word begins', () => {
    expect(offersAt("'a' list(ports, ag", NAMES)?.from).toBe("'a' list(ports, ".length)
    expect(offersAt("'a' cap", NAMES)?.from).toBe(4)
  })

  it('is quiet within quotation marks, expressions and remarks', () => {
    expect(offersAt("'pil", NAMES)).toBeNull()
    expect(offersAt('like(/ab', NAMES)).toBeNull()
    expect(offersAt('# cap', NAMES)).toBeNull()
    expect(offersAt("'a' \"b\" ", NAMES)).not.toBeNull()
  })
})
