import { describe, expect, it } from 'vitest'

import { type ActOnItsWay, wishOf } from './wishes'

const span = { start: 0, end: 6, type: 'VES' }
const ACT: ActOnItsWay = {
  kind: 'mark', version: 3, token: 't', state: 'draft', spans: [span], turned_down: [], question: 'a ship?', answer: 'yes', verdicts: [],
}

describe('acts as the server takes them', () => {
  it.each([
    ['mark', ['spans', 'turned_down', 'verdicts']],
    ['turn down', ['spans', 'turned_down', 'verdicts']],
    ['sign', ['spans', 'turned_down', 'verdicts']],
    ['sign as empty', ['spans', 'turned_down', 'verdicts']],
    ['unsign', []],
    ['ask', ['question']],
    ['answer', ['answer']],
  ])('%s carries what it may change and nothing else', (kind, members) => {
    expect(Object.keys(wishOf({ ...ACT, kind })).sort()).toEqual(['kind', 'token', 'version', ...members].sort())
  })
})
