import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { QueuePage } from '../../api/schema'
import { Refusal } from '../../test/fake'
import { freshDesk, openDesk, QUEUE, sentence, VARNBY } from './fixture'

beforeEach(freshDesk)

describe('the queue', () => {
  it('opens the first sentence that is not signed', async () => {
    const items = QUEUE.items.map((item) => ({ ...item, state: item.id === 1 ? 'signed' : 'untouched' }))
    const { router } = await openDesk({ 'GET /desk/queue': { ...QUEUE, items } }, 'desk')
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/2')
    expect(screen.getByText('1 of 2 signed')).toBeInTheDocument()
  })

  it('opens the first open sentence of a later page and counts the whole queue', async () => {
    const page = (id: number, state: string, next: number | null) => ({
      ...QUEUE, next, total: 2, signed: 1, first_open: 2, items: QUEUE.items.filter((i) => i.id === id).map((i) => ({ ...i, state })),
    })
    const answer = (sent: unknown) => ((sent as { after?: string }).after === '7' ? page(2, 'untouched', null) : page(1, 'signed', 7))
    const { router } = await openDesk({ 'GET /desk/queue': answer }, 'desk')
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/2')
    await waitFor(() => expect(within(screen.getByRole('listbox')).getAllByRole('option')).toHaveLength(2))
    expect(screen.getByText('1 of 2 signed')).toBeInTheDocument()
    expect(screen.getByText('1 sentence left')).toBeInTheDocument()
  })

  it('goes on from a sentence whose place in the queue is still on its way', async () => {
    let arrive: (page: QueuePage) => void = () => undefined
    const later = new Promise<QueuePage>((resolve) => (arrive = resolve))
    const first = { ...QUEUE, items: [], next: 7, signed: 1 }
    const answer = (sent: unknown) => ((sent as { after?: string }).after === '7' ? later : first)
    const { router } = await openDesk({ 'GET /desk/queue': answer, 'GET /desk/sentences/1': sentence(1, { state: 'signed', spans: [VARNBY] }) })
    await userEvent.keyboard('{Enter}')
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/1')
    arrive({ ...QUEUE, items: QUEUE.items.map((item) => ({ ...item, state: item.id === 1 ? 'signed' : 'untouched' })) })
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/2'))
  })

  it('says why there is no order, and asks again', async () => {
    let fails = true
    const { router } = await openDesk({ 'GET /desk/queue/ordered': () => (fails ? new Refusal(500, { detail: 'The order could not be made.' }) : QUEUE) })
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'order' }), 'doubt')
    expect(await screen.findByRole('alert')).toHaveTextContent('The order could not be made.')
    fails = false
    await userEvent.click(screen.getByRole('button', { name: 'retry' }))
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/1'))
  })

  it('orders the queue, and anew only when asked to', async () => {
    const ordered = { ...QUEUE, items: [...QUEUE.items].reverse().map((item) => ({ ...item, worth: item.id })) }
    const { asked, router } = await openDesk({ 'GET /desk/queue/ordered': ordered })
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'order' }), 'disputes')
    const rows = await screen.findAllByText(/\d gaps?/)
    expect(rows.map((row) => row.textContent)).toEqual(['2 gaps', '1 gap'])
    // Whoever orders means to begin with what comes first then.
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/2'))
    const turns = () => asked.filter(({ what }) => what.endsWith('/ordered')).map(({ body }) => (body as { turn: string }).turn)
    expect(turns()).toHaveLength(1)
    await userEvent.click(screen.getByRole('button', { name: 'refresh the order' }))
    await waitFor(() => expect(new Set(turns()).size).toBe(2))
  })
})
