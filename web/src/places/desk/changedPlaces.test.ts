import { describe, expect, it } from 'vitest'

import type { SpanShown } from '../../api/schema'
import { changedPlaces, withLeftOut } from './changedPlaces'

const span = (start: number, end: number, type: string): SpanShown => ({ start, end, type, source: '', why: '', maker: '', probability: null })
const said = (spans: readonly SpanShown[]) => spans.map((s) => `${s.start}-${s.end} ${s.type}`)

const NOW = [span(0, 6, 'VES'), span(8, 12, 'VES'), span(20, 24, 'PRT')]
const THEN = [span(8, 12, 'BTH'), span(14, 18, 'VES'), span(20, 24, 'PRT')]

describe('places of a proposal', () => {
  it('are where spans go, come, or get another type', () => {
    expect(changedPlaces(NOW, THEN)).toEqual([{ start: 0, end: 6 }, { start: 8, end: 12 }, { start: 14, end: 18 }])
    expect(changedPlaces(NOW, [...NOW].reverse())).toEqual([])
  })

  it('stand as they are when they are left out', () => {
    expect(said(withLeftOut(NOW, THEN, new Set()))).toEqual(said(THEN))
    expect(said(withLeftOut(NOW, THEN, new Set(['8-12', '14-18'])))).toEqual(['8-12 VES', '20-24 PRT'])
    expect(said(withLeftOut(NOW, THEN, new Set(changedPlaces(NOW, THEN).map((p) => `${p.start}-${p.end}`))))).toEqual(said(NOW))
  })
})
