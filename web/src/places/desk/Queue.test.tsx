import { act, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { QueueItemShown, QueuePage } from '../../api/schema'
import { Refusal } from '../../test/fake'
import { freshDesk, openDesk, QUEUE, sentence, VARNBY } from './fixture'

beforeEach(freshDesk)

const item = (id: number, state = 'untouched') => ({ ...(QUEUE.items[0] as QueueItemShown), id, state })
const rows = () => within(screen.getByRole('listbox', { name: 'sentences' })).getAllByRole('option')

/** A server with sentences of these states, numbered from 1, that gives them out two by two. */
const serving = (states: readonly string[]) => (sent: unknown): QueuePage => {
  const { after, before, at, show } = sent as { after?: string; before?: string; at?: string; show?: string }
  const all = states.map((state, i) => item(i + 1, state)).filter(({ id, state }) => show !== 'open' || state !== 'signed' || String(id) === at)
  const place = all.findIndex(({ id }) => String(id) === (after ?? before ?? at))
  const begin = after !== undefined ? place + 1 : before !== undefined ? Math.max(0, place - 2) : Math.max(0, place)
  const end = before !== undefined ? place : begin + 2
  const items = all.slice(begin, end)
  return { items, moment: 0, previous: begin > 0 ? (items[0]?.id ?? null) : null, next: end < all.length ? (items.at(-1)?.id ?? null) : null }
}

describe('the queue', () => {
  it('opens the first sentence that is not signed, wherever it stands, and lists what is around it', async () => {
    const counts = { total: 900, signed: 2, empty: 1, asked: 0, first_open: 2 }
    const { router, asked } = await openDesk({ 'GET /desk/queue/counts': counts, 'GET /desk/queue': { ...QUEUE, items: [item(2)] } }, 'desk')
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/2')
    await waitFor(() => expect(rows()).toHaveLength(1))
    expect(screen.getByText('2 of 900 signed')).toBeInTheDocument()
    expect(screen.getByText('898 sentences left')).toBeInTheDocument()
    expect(asked.filter(({ what }) => what === 'GET /desk/queue').map(({ body }) => body)).toEqual([{ split: '', show: 'all', at: '2' }])
  })

  it('fetches what comes before and after only when one comes near it, and what is around a sentence from elsewhere', async () => {
    const states = Array.from({ length: 9 }, () => 'untouched')
    const { asked, router } = await openDesk({ 'GET /desk/queue': serving(states), 'GET /desk/sentences/9': sentence(9), 'GET /desk/sentences/9/elsewhere': { as_span: {}, inside: {}, bare: 0, sentences: 0 } })
    // The rows are few: every end is near.
    await waitFor(() => expect(rows()).toHaveLength(9))
    await act(() => router.navigate('/p/tessmar/desk/9'))
    expect(rows()).toHaveLength(9)
    const parts = asked.filter(({ what }) => what === 'GET /desk/queue').map(({ body }) => body)
    expect(parts).toEqual([{ at: '1' }, { after: '2' }, { after: '4' }, { after: '6' }, { after: '8' }].map((part) => ({ split: '', show: 'all', ...part })))
  })

  it('counts an act before it has arrived, and once when it has', async () => {
    const { asked } = await openDesk()
    await screen.findAllByRole('option')
    expect(screen.getByText('0 of 2 signed')).toBeInTheDocument()
    await userEvent.keyboard('{Control>}{Enter}{/Control}')
    expect(await screen.findByText('1 of 2 signed')).toBeInTheDocument()
    expect(screen.getByText(/1 empty/)).toBeInTheDocument()
    await waitFor(() => expect(asked.some(({ what }) => what === 'PUT /desk/sentences/1')).toBe(true))
    await waitFor(() => expect(screen.getByText('1 of 2 signed')).toBeInTheDocument())
  })

  it('asks the server for the next open sentence where no row has one', async () => {
    const far: QueuePage = { items: [item(1, 'signed'), item(2)], previous: null, next: null, moment: 0 }
    const near: QueuePage = { items: [item(1, 'signed')], previous: null, next: 1, moment: 0 }
    const never = new Promise(() => undefined)
    const answer = (sent: unknown) => {
      const { after, show } = sent as { after?: string; show: string }
      return after !== undefined ? never : show === 'open' ? far : near
    }
    const { router } = await openDesk({ 'GET /desk/queue': answer, 'GET /desk/sentences/1': sentence(1, { state: 'signed', spans: [VARNBY] }) })
    await waitFor(() => expect(rows()).toHaveLength(1))
    await userEvent.keyboard('{Enter}')
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/2'))
  })

  it('stays where it is, and says so, when nobody knows what comes next', async () => {
    const near: QueuePage = { items: [item(1, 'signed')], previous: null, next: 1, moment: 0 }
    const answer = (sent: unknown) => {
      const { after, show } = sent as { after?: string; show: string }
      return after !== undefined ? new Promise(() => undefined) : show === 'open' ? new Refusal(503, { detail: 'The database is away.' }) : near
    }
    const { router } = await openDesk({ 'GET /desk/queue': answer, 'GET /desk/sentences/1': sentence(1, { state: 'signed', spans: [VARNBY] }) })
    await waitFor(() => expect(rows()).toHaveLength(1))
    await userEvent.keyboard('{Enter}')
    expect(await screen.findByText('It is not known what comes next. The database is away.')).toBeInTheDocument()
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/1')
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
