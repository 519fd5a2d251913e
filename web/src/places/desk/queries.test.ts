import { expect, it } from 'vitest'

import type { DeskSentenceShown } from '../../api/schema'
import { newest } from './queries'

const sentence = (version: number, state: string, resolved: DeskSentenceShown['resolved'] = []) =>
  ({ id: 1, resolved, annotation: { version, state, spans: [] } }) as unknown as DeskSentenceShown

it('keeps an act that arrived while an older answer was on its way', () => {
  const known = sentence(3, 'signed')
  const late = newest(known, sentence(2, 'draft', [{ start: 0, end: 4, type: 'VES' }] as DeskSentenceShown['resolved']))
  expect(late.annotation).toEqual({ version: 3, state: 'signed', spans: [] })
  expect(late.resolved).toHaveLength(1)
})

it('takes what is newer', () => {
  expect(newest(sentence(3, 'signed'), sentence(4, 'draft')).annotation.state).toBe('draft')
  expect(newest(undefined, sentence(1, 'draft')).annotation.version).toBe(1)
})
