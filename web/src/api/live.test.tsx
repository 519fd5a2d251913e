import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, render } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { AGAIN_MS, invalidate, onAnnotation, useLive } from './live'

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
    expect(stale(made)).toEqual([false, true, true])
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

  function listen() {
    const made = client()
    const view = render(
      <QueryClientProvider client={made}>
        <Listening />
      </QueryClientProvider>,
    )
    const [source] = sources.splice(0)
    const say = (what: string) => source?.dispatchEvent(new MessageEvent('changed', { data: what }))
    return { made, say, source, unmount: view.unmount }
  }

  it('looks again once for many acts, and leaves the long queue to what listens for annotation', () => {
    const { made, say, source, unmount } = listen()
    const heard = vi.fn()
    const deaf = onAnnotation(heard)
    for (let i = 0; i < 5; i += 1) say('desk')
    vi.advanceTimersByTime(200)
    expect(stale(made)).toEqual([false, false, false])
    vi.advanceTimersByTime(1200)
    // What the work hangs on first, what is made from it later.
    expect(stale(made)).toEqual([false, true, false])
    expect(heard.mock.calls).toEqual([['tessmar']])
    vi.advanceTimersByTime(4000)
    expect(stale(made)).toEqual([false, true, true])
    deaf()
    say('desk')
    vi.advanceTimersByTime(1500)
    expect(heard).toHaveBeenCalledOnce()
    unmount()
    expect(source?.close).toHaveBeenCalledOnce()
  })

  it('fetches the queue anew when texts have changed or the stream was broken off, not when it opens', () => {
    const { made, say } = listen()
    say('all')
    vi.advanceTimersByTime(200)
    // The page is not asked for twice while it is being loaded.
    expect(stale(made)).toEqual([false, false, false])
    vi.advanceTimersByTime(5000)
    expect(stale(made)).toEqual([false, true, true])
    say('all')
    vi.advanceTimersByTime(200)
    expect(stale(made)[0]).toBe(true)
    const other = listen()
    other.say('texts')
    vi.advanceTimersByTime(200)
    expect(stale(other.made)).toEqual([true, true, true])
  })

  it('opens the stream again after a refusal, and looks at everything then', async () => {
    const made = client()
    const Page = () => {
      useLive('tessmar')
      return null
    }
    render(
      <QueryClientProvider client={made}>
        <Page />
      </QueryClientProvider>,
    )
    const before = sources.length
    const source = sources.at(-1) as EventTarget & { readyState?: number }
    // A cut is the browser's to mend.
    source.readyState = 0
    source.dispatchEvent(new Event('error'))
    await act(() => vi.advanceTimersByTimeAsync(2 * AGAIN_MS))
    expect(sources).toHaveLength(before)
    source.readyState = 2
    source.dispatchEvent(new Event('error'))
    await act(() => vi.advanceTimersByTimeAsync(2 * AGAIN_MS))
    expect(sources).toHaveLength(before + 1)
    sources.at(-1)?.dispatchEvent(new MessageEvent('changed', { data: 'all' }))
    await act(() => vi.advanceTimersByTimeAsync(2 * AGAIN_MS))
    expect(stale(made)).toEqual([true, true, true])
  })
})
