import { act, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { LEAD, openPlace, projectOf } from '../../test/fake'
import { BringBack } from './BringBack'

const ARRIVAL = '00000000-0000-4000-8000-000000000001'

/** A request that the test answers by hand. */
class HeldRequest {
  static last: HeldRequest
  url = ''
  status = 0
  response: unknown = null
  responseType = ''
  upload: { onprogress?: (event: { loaded: number; total: number }) => void; onload?: () => void } = {}
  onload?: () => void
  onerror?: () => void
  onabort?: () => void
  onloadend?: () => void
  constructor() {
    HeldRequest.last = this
  }
  open(_method: string, url: string) {
    this.url = url
  }
  setRequestHeader() {}
  send() {}
  abort() {
    this.onabort?.()
    this.onloadend?.()
  }
  answer(status: number, response: unknown) {
    Object.assign(this, { status, response })
    this.onload?.()
    this.onloadend?.()
  }
}

describe('a project that is brought back', () => {
  beforeEach(() => {
    vi.stubGlobal('XMLHttpRequest', HeldRequest)
    vi.spyOn(crypto, 'randomUUID').mockReturnValue(ARRIVAL)
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    vi.restoreAllMocks()
  })

  const begin = async (done: number) => {
    const place = openPlace(<BringBack keeper={false} onClose={() => undefined} />, 'x', {
      [`GET /api/archives/import/${ARRIVAL}`]: { done, total: 200 },
      'GET /api/projects': [],
    })
    await userEvent.upload(await screen.findByLabelText("the project's file"), new File(['x'], 'demo.zip'))
    await userEvent.click(screen.getByRole('button', { name: 'import' }))
    return place
  }

  it('says how much is sent, then how much is read, and opens', async () => {
    const { router } = await begin(80)
    const request = HeldRequest.last
    expect(request.url).toBe(`/api/archives/import?with_members=false&arrival=${ARRIVAL}`)
    act(() => request.upload.onprogress?.({ loaded: 1, total: 4 }))
    expect(screen.getByText('25 % sent')).toBeInTheDocument()
    act(() => {
      request.upload.onprogress?.({ loaded: 4, total: 4 })
      request.upload.onload?.()
    })
    expect(screen.getByText('sent; it is checked')).toBeInTheDocument()
    expect(await screen.findByText('40 % read', {}, { timeout: 3000 })).toBeInTheDocument()
    act(() => request.answer(201, { ...projectOf(LEAD), slug: 'again' }))
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/again'))
  })

  it('can be stopped, and says what is wrong with it', async () => {
    await begin(0)
    act(() => HeldRequest.last.answer(422, { detail: 'This is no archive of a project, or it is cut off.' }))
    expect(await screen.findByRole('alert')).toHaveTextContent('cut off')
    await userEvent.click(screen.getByRole('button', { name: 'import' }))
    await userEvent.click(screen.getByRole('button', { name: 'stop' }))
    expect(await screen.findByRole('alert')).toHaveTextContent('It was stopped; nothing was saved.')
  })
})
