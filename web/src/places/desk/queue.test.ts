import { describe, expect, it } from 'vitest'

import type { QueueItemShown } from '../../api/schema'
import { shifted } from '../../parts/RowList'
import { listed, moved, nextOpen, type Standing } from './queue'

const item = (id: number, more: Partial<QueueItemShown> = {}): QueueItemShown => ({
  id, text_id: 1, title: '33/1', split: 'train', number: id - 1, of: 9, words: '', state: 'untouched', spans: 0, asked: false, worth: null, ...more,
})
const EACH: Standing[] = [
  { state: 'untouched', spans: 0, asked: false },
  { state: 'draft', spans: 2, asked: true },
  { state: 'signed', spans: 0, asked: false },
  { state: 'signed', spans: 3, asked: true },
]
const count = (all: readonly Standing[]) => ({
  total: all.length,
  signed: all.filter(({ state }) => state === 'signed').length,
  empty: all.filter(({ state, spans }) => state === 'signed' && spans === 0).length,
  asked: all.filter(({ asked }) => asked).length,
  first_open: null,
})

describe('counts', () => {
  it('come to the same by each step as when all is counted', () => {
    for (const [i, from] of EACH.entries())
      for (const to of EACH) expect(moved(count(EACH), from, to)).toEqual(count(EACH.with(i, to)))
  })
})

describe('what is listed', () => {
  const items = [item(1, { state: 'signed' }), item(2), item(3, { asked: true, state: 'signed' })]
  const ids = (rows: readonly QueueItemShown[]) => rows.map(({ id }) => id)

  it('is what is shown, and the open sentence', () => {
    expect(ids(listed(items, 'all', 1))).toEqual([1, 2, 3])
    expect(ids(listed(items, 'open', 1))).toEqual([1, 2])
    expect(ids(listed(items, 'asked', null))).toEqual([3])
  })

  it('goes on to what is not signed', () => {
    expect(nextOpen(items, 1)?.id).toBe(2)
    expect(nextOpen(items, 2)).toBeUndefined()
  })
})

describe('rows before those in sight', () => {
  const rows = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => item(from + i))
  const by = (old: QueueItemShown[], fresh: QueueItemShown[]) => shifted(old, fresh, ({ id }) => id)

  it('move the others by as many as come or go', () => {
    expect(by(rows(5, 9), rows(2, 9))).toBe(3)
    expect(by(rows(2, 9), rows(4, 12))).toBe(-2)
    expect(by(rows(2, 9), rows(2, 20))).toBe(0)
    expect(by([], rows(2, 4))).toBe(0)
    // Another list has nothing in common with this one.
    expect(by(rows(2, 4), rows(20, 24))).toBe(0)
  })
})
