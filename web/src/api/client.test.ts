import { QueryClient } from '@tanstack/react-query'
import { describe, expect, it, vi } from 'vitest'

import { isPassing, ProblemError, UnreachableError } from './client'
import { invalidate } from './live'
import { CodePoints } from './offsets'

describe('ProblemError', () => {
  it('speaks in the words of the problem', () => {
    const error = new ProblemError(422, { type: 'urn:urdaten:bad-input', detail: 'A type needs a name.', field: 'name' })
    expect([error.message, error.field, error.kind]).toEqual(['A type needs a name.', 'name', 'urn:urdaten:bad-input'])
  })
  it('says something useful of an answer that is no problem', () => {
    expect(new ProblemError(502, null).message).toBe('The server answered with status 502.')
  })
  it('passes when the server is away or in trouble, and stays when the wish is wrong', () => {
    expect([new UnreachableError(), new ProblemError(503, {})].every(isPassing)).toBe(true)
    expect([new ProblemError(409, {}), new Error('x')].some(isPassing)).toBe(false)
  })
})

describe('CodePoints', () => {
  it('slices by code points from the start of the sentence', () => {
    const points = new CodePoints('a🚢é', 10)
    expect([points.slice(11, 12), points.slice(10, 13), points.end]).toEqual(['🚢', 'a🚢é', 13])
  })
})

describe('invalidate', () => {
  it('looks again at what depends on the change and always at the figures', () => {
    const client = new QueryClient()
    const look = vi.spyOn(client, 'invalidateQueries')
    invalidate(client, 'p', 'scores')
    expect(look.mock.calls.map(([filter]) => filter?.queryKey)).toEqual([
      ['p', 'p', 'scores'],
      ['p', 'p', 'figures'],
    ])
    look.mockClear()
    invalidate(client, 'p', 'all')
    expect(look.mock.calls.map(([filter]) => filter?.queryKey)).toEqual([['p', 'p']])
  })
})
