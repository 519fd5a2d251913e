import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { invalidate, useLive } from './live'

const QUEUE = ['p', 'tessmar', 'desk', 'queue', '', 'reading']
const SENTENCE = ['p', 'tessmar', 'desk', 'sentence', 1]
const LISTS = ['p', 'tessmar', 'lists', 'all']

const sources: (EventTarget & { close: () => void })[] = []

class FakeSource extends EventTarget {
  close = vi.fn()
  constructor() {
    super()
    sources.push(this)
  }
}

function client(): QueryClient {
  const made = new QueryClient()
  for (const key of [QUEUE, SENTENCE, LISTS]) made.setQueryData(key, 'known')
  return made
}

const stale = (made: QueryClient) => [QUEUE, SENTENCE, LISTS].map((key) => made.getQueryState(key)?.isInvalidated)

describe('invalidate', () => {
  it('looks again at what depends on a place, and at everything when it does not know the place', () => {
    const made = client()
    invalidate(made, 'tessmar', 'scores')
    expect(stale(made)).toEqual([false, false, false])
    invalidate(made, 'tessmar', 'lists')
    expect(stale(made)).toEqual([true, true, true])
    const other = client()
    invalidate(other, 'tessmar', 'all')
    expect(stale(other)).toEqual([true, true, true])
  })
})

describe('useLive', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    vi.stubGlobal('EventSource', FakeSource)
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.unstubAllGlobals()
  })

  function Listening() {
    useLive('tessmar')
    return null
  }

  it('looks again at the sentence soon after an act, and at the long queue now and then only', () => {
    const made = client()
    const { unmount } = render(
      <QueryClientProvider client={made}>
        <Listening />
      </QueryClientProvider>,
    )
    const [source] = sources.splice(0)
    source?.dispatchEvent(new MessageEvent('changed', { data: 'desk' }))
    vi.advanceTimersByTime(200)
    expect(stale(made).slice(0, 2)).toEqual([false, true])
    vi.advanceTimersByTime(4000)
    expect(stale(made)[0]).toBe(true)
    unmount()
    expect(source?.close).toHaveBeenCalledOnce()
  })
})
