import { afterEach, describe, expect, it, vi } from 'vitest'

import { api, body } from './client'
import { takeEarly } from './early'
import BOOT from '../../public/boot.js?raw'
import { server } from '../test/server'

const get = (path: string, method = 'GET') => new Request(`http://localhost:3000${path}`, { method })

/** What the page asks for by itself at an address. */
function booted(path: string): string[] {
  window.history.replaceState(null, '', path)
  const asked: string[] = []
  vi.stubGlobal('fetch', (address: string) => {
    asked.push(address)
    return Promise.resolve(Response.json({ asked: address }))
  })
  // As the browser runs it: by itself, before any module.
  // eslint-disable-next-line @typescript-eslint/no-implied-eval, @typescript-eslint/no-unsafe-call -- a script, not a module
  new Function(BOOT)()
  return asked
}

describe('what is asked before the application is there', () => {
  afterEach(() => {
    delete window.early
    vi.unstubAllGlobals()
    window.history.replaceState(null, '', '/')
  })

  it('is what the address needs', () => {
    expect(booted('/projects')).toEqual(['/api/me'])
    expect(booted('/p/tessmar/lists/3')).toEqual(['/api/me', '/api/projects/tessmar', '/api/projects/tessmar/types', '/api/projects/tessmar/figures'])
    expect(booted('/p/tessmar/desk/7')).toContain('/api/projects/tessmar/desk/queue?split=&show=all&at=7')
    expect(booted('/sign-in')).toEqual([])
    expect(booted('/p/tessmar/desk')).not.toContain('/api/projects/tessmar/desk/sentences/')
  })

  it('is handed out once, and only while it is fresh', async () => {
    booted('/p/tessmar/desk/7')
    expect(await (await takeEarly(get('/api/me')))?.json()).toEqual({ asked: '/api/me' })
    expect(takeEarly(get('/api/me'))).toBeUndefined()
    expect(takeEarly(get('/api/projects/tessmar'), performance.now() + 60_000)).toBeUndefined()
    expect(takeEarly(get('/api/projects/other'))).toBeUndefined()
  })

  it('is not handed out after something was changed', () => {
    booted('/p/tessmar/desk/7')
    expect(takeEarly(get('/api/sign-in', 'POST'))).toBeUndefined()
    expect(takeEarly(get('/api/me'))).toBeUndefined()
  })

  it('is what the client gets for the very addresses that it asks for', async () => {
    const asked = booted('/p/tessmar/desk/7')
    server.answer = (request) => Promise.reject(new Error(`asked again: ${request.url}`))
    const path = { project: 'tessmar' }
    await body(api.GET('/api/me'))
    await body(api.GET('/api/projects/{project}', { params: { path } }))
    await body(api.GET('/api/projects/{project}/figures', { params: { path } }))
    await body(api.GET('/api/projects/{project}/types', { params: { path } }))
    await body(api.GET('/api/projects/{project}/desk/rounds', { params: { path } }))
    await body(api.GET('/api/projects/{project}/desk/queue/counts', { params: { path, query: { split: '' } } }))
    await body(api.GET('/api/projects/{project}/desk/queue', { params: { path, query: { split: '', show: 'all', at: 7 } } }))
    await body(api.GET('/api/projects/{project}/desk/sentences/{sentence_id}', { params: { path: { ...path, sentence_id: 7 } } }))
    expect(window.early?.size).toBe(0)
    expect(asked).toHaveLength(8)
  })
})
