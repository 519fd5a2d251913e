import { describe, expect, it } from 'vitest'

import { pairOf, splitPair } from './filter'

describe('what a source says of a text', () => {
  it.each([
    ['Desk', 'night log'],
    ['a=b', 'c=d'],
    ['100%', ''],
    ['%3D', '='],
  ])('goes to the server and comes back: %s is %s', (name, value) => {
    const pair = pairOf(name, value)
    expect(splitPair(pair)).toEqual([name, value])
    expect(pair.slice(0, pair.indexOf('='))).not.toContain('=')
  })
})
