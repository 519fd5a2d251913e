import { QueryClient } from '@tanstack/react-query'
import { afterEach, describe, expect, it, vi } from 'vitest'

import BOOT from '../../public/boot.js?raw'
import { sentenceQuery } from '../places/desk/queries'
import { server } from '../test/server'
import { fetchAhead } from './ahead'

/** The page at this address, asked for early and answered by `answer`. */
function booted(path: string, answer: (address: string) => Promise<Response>) {
  window.history.replaceState(null, '', path)
  vi.stubGlobal('fetch', answer)
  // eslint-disable-next-line @typescript-eslint/no-implied-eval, @typescript-eslint/no-unsafe-call -- a script, not a module
  new Function(BOOT)()
  return new QueryClient({ defaultOptions: { queries: { retry: false } } })
}

describe('what a page waits for before it is drawn', () => {
  afterEach(() => {
    delete window.early
    vi.unstubAllGlobals()
    vi.useRealTimers()
    window.history.replaceState(null, '', '/')
  })

  it('is all that was asked for early, and nothing is asked twice', async () => {
    const again: string[] = []
    server.answer = (request) => {
      again.push(request.url)
      return Promise.resolve(Response.json({}))
    }
    const client = booted('/p/tessmar/desk/7', (address) => Promise.resolve(Response.json({ asked: address })))
    await fetchAhead(client, '/p/tessmar/desk/7')
    expect(again).toEqual([])
    expect(client.getQueryData(sentenceQuery('tessmar', 7).queryKey)).toEqual({ asked: '/api/projects/tessmar/desk/sentences/7' })
    expect(client.getQueryCache().getAll().map(({ queryKey }) => queryKey.join(' ').replace('[object Object]', 'all'))).toEqual([
      'me',
      'p tessmar project',
      'p tessmar types scheme',
      'p tessmar rounds',
      'p tessmar desk queue all 7',
      'p tessmar desk sentence 7',
    ])
  })

  it('is given up when it is refused or takes too long', async () => {
    const refused = booted('/p/tessmar/types', () => Promise.resolve(Response.json({ title: 'no', status: 403 }, { status: 403 })))
    await expect(fetchAhead(refused, '/p/tessmar/types')).resolves.toBeUndefined()
    vi.useFakeTimers()
    const slow = booted('/p/tessmar/types', () => new Promise(() => undefined))
    let drawn = false
    void fetchAhead(slow, '/p/tessmar/types').then(() => (drawn = true))
    await vi.advanceTimersByTimeAsync(700)
    expect(drawn).toBe(false)
    await vi.advanceTimersByTimeAsync(200)
    expect(drawn).toBe(true)
  })

  it('is nothing outside a project', async () => {
    const client = booted('/projects', () => new Promise(() => undefined))
    await fetchAhead(client, '/projects')
    expect(client.getQueryCache().getAll()).toEqual([])
  })
})
