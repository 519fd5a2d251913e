import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { RoundShown, RoundsShown, RoundWish } from '../../api/schema'
import { ANNOTATOR, type Answers, openPlace, Refusal, written } from '../../test/fake'
import { DeskInFrame, ANSWERS, COUNTS, freshDesk, openDesk, QUEUE, sentence } from './fixture'
import { roundFor } from './useRound'

const INES = { id: 1, name: 'Ines' }
const JO = { id: 2, name: 'Jo' }
const FIRST: RoundShown = {
  id: 5, version: 1, name: 'First', note: 'Mind the tugs.', priority: 1, suggestions: true, open: true, people: [], texts: 1, sentences: 2, signed: 1, empty: 0, asked: 0,
}
const BLIND: RoundShown = { ...FIRST, id: 6, name: 'Blind', note: '', priority: 2, suggestions: false, people: [JO] }
const ENDED: RoundShown = { ...FIRST, id: 7, name: 'Of old', open: false }
const ROUNDS: RoundsShown = { rounds: [FIRST, BLIND, ENDED], people: [INES, JO] }

/** What the queue is, by the round that it is asked for: in a round there is the second sentence alone. */
const queue = (sent: unknown) => ((sent as { round?: string }).round === undefined ? QUEUE : { ...QUEUE, items: QUEUE.items.slice(1) })
const counts = (sent: unknown) => ((sent as { round?: string }).round === undefined ? COUNTS : { ...COUNTS, total: 1, first_open: 2 })
const IN_ROUNDS: Answers = { 'GET /desk/rounds': ROUNDS, 'GET /desk/queue': queue, 'GET /desk/queue/counts': counts, 'GET /desk/queue/texts': { texts: [1] } }

beforeEach(freshDesk)

const rows = () => within(screen.getByRole('listbox', { name: 'sentences' })).getAllByRole('option')
const region = (name: string) => within(screen.getByRole('region', { name }))
const press = (name: string, within_ = screen as Pick<typeof screen, 'getByRole'>) => userEvent.click(within_.getByRole('button', { name }))
const sent = (asked: Parameters<typeof written>[0]) => written(asked).map(({ what, body }) => [what, body as RoundWish] as const)

describe('rounds', () => {
  it('says how far each has come, and works in one until one leaves it', async () => {
    const { router, asked } = await openDesk(IN_ROUNDS)
    await userEvent.keyboard('&')
    expect(await screen.findByRole('region', { name: 'Blind' })).toHaveTextContent('priority 2 · without suggestions · for Jo')
    expect(region('First').getByText('1 of 2 sentences signed')).toBeInTheDocument()
    expect(screen.getByRole('region', { name: 'Of old' })).toHaveTextContent('ended')
    await press('work in it', region('First'))
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/2'))
    expect(screen.queryByRole('dialog')).not.toBeInTheDocument()
    expect(await screen.findByText('0 of 1 signed')).toBeInTheDocument()
    await waitFor(() => expect(rows()).toHaveLength(1))
    expect(screen.getByText('Mind the tugs.')).toBeInTheDocument()
    expect(asked.findLast(({ what }) => what === 'GET /desk/queue')?.body).toMatchObject({ split: '', round: '5' })
    // Ended rounds are not among those to choose from.
    const choice = screen.getByRole('combobox', { name: 'round' })
    expect([...choice.querySelectorAll('option')].map((option) => option.textContent)).toEqual([
      'no round: the whole project', 'First', 'Blind',
    ])
    await userEvent.selectOptions(choice, '')
    await waitFor(() => expect(rows()).toHaveLength(2))
  })

  it('goes on without rounds where they cannot be read, asking no more than each part does once', async () => {
    const { asked } = await openDesk({ 'GET /desk/rounds': new Refusal(500, { detail: 'Out of order.' }) })
    await waitFor(() => expect(rows()).toHaveLength(2))
    await new Promise((passed) => setTimeout(passed, 300))
    expect(screen.getByRole('listbox', { name: 'sentences' })).toBeInTheDocument()
    expect(asked.filter(({ what }) => what === 'GET /desk/rounds').length).toBeLessThan(4)
  })

  it('is still in the round when one comes back, and in none when it has been removed', async () => {
    await openDesk(IN_ROUNDS)
    await userEvent.selectOptions(await screen.findByRole('combobox', { name: 'round' }), '5')
    await waitFor(() => expect(rows()).toHaveLength(1))
    expect(JSON.parse(localStorage.getItem('urdaten.desk') ?? '')).toMatchObject({ rounds: { tessmar: 5 } })
    cleanup()
    await openDesk({ ...IN_ROUNDS, 'GET /desk/rounds': { ...ROUNDS, rounds: [BLIND] } })
    await waitFor(() => expect(rows()).toHaveLength(2))
  })

  it('opens in the first round that asks for one', async () => {
    const { router } = openPlace(<DeskInFrame />, 'desk', { ...ANSWERS, ...IN_ROUNDS }, ANNOTATOR)
    await screen.findByText(/sentence 2 of 2/)
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/2')
    expect(screen.getByRole('combobox', { name: 'round' })).toHaveValue('6')
  })

  it('asks nobody back into a round that is signed throughout, ended, or for others', () => {
    expect(roundFor([FIRST, { ...BLIND, signed: 2 }, { ...BLIND, open: false }], JO.id)).toBeNull()
    expect(roundFor([FIRST, BLIND], INES.id)).toBeNull()
    expect(roundFor([FIRST, BLIND, { ...BLIND, id: 9 }], JO.id)).toBe(6)
  })

  it('says in the sentence why nothing is suggested there', async () => {
    const why = 'The round “Blind” is annotated without suggestions.'
    await openDesk({ ...IN_ROUNDS, 'GET /desk/sentences/1': sentence(1, {}, { lanes: {}, resolved: [], quiet: why }) })
    expect(screen.getByText(why)).toBeInTheDocument()
    await userEvent.keyboard('v*')
    expect(screen.getAllByText(why)).toHaveLength(2)
    expect(screen.queryByRole('dialog')).not.toBeInTheDocument()
  })

  it('begins one with the first texts of the queue', async () => {
    const { asked } = await openDesk({ 'GET /desk/queue/texts': { texts: [29, 28] }, 'GET /desk/rounds': { ...ROUNDS, rounds: [] }, 'POST /desk/rounds': 8 })
    await press('rounds')
    expect(await screen.findByText(/A new one takes its texts from the queue/)).toBeInTheDocument()
    await press('new round')
    await userEvent.type(screen.getByLabelText('name'), 'Fresh')
    await userEvent.selectOptions(screen.getByLabelText('suggestions'), 'no')
    await userEvent.click(screen.getByRole('checkbox', { name: 'Jo' }))
    const count = await screen.findByLabelText('how many texts of the queue, from its top: 2 now')
    expect(count).toHaveValue(2)
    await userEvent.clear(count)
    await userEvent.type(count, '1')
    await press('add')
    await waitFor(() =>
      expect(sent(asked)).toEqual([
        ['POST /desk/rounds', { name: 'Fresh', note: '', priority: 1, suggestions: false, open: true, people: [2], texts: [29], keep_texts: true }],
      ]),
    )
  })

  it('shows a refusal at its field and keeps what was typed', async () => {
    await openDesk({ ...IN_ROUNDS, 'POST /desk/rounds': new Refusal(409, { detail: 'There is already a round “First”.', field: 'name' }) })
    await press('rounds')
    await press('new round')
    await userEvent.type(screen.getByLabelText('name'), 'First')
    await userEvent.type(screen.getByLabelText('note to the annotators'), 'a long note')
    await press('add')
    expect(await screen.findByText('There is already a round “First”.')).toBeInTheDocument()
    expect(screen.getByLabelText('note to the annotators')).toHaveValue('a long note')
  })

  it('changes, ends and removes one, and says what would be lost', async () => {
    const { asked } = await openDesk({ ...IN_ROUNDS, 'PUT /desk/rounds/6': undefined, 'DELETE /desk/rounds/6': undefined })
    await press('rounds')
    await press('close round', region('Blind'))
    await press('edit', region('Blind'))
    await userEvent.selectOptions(within(screen.getByRole('dialog')).getByLabelText('texts'), 'other')
    await press('save')
    await waitFor(() => expect(sent(asked)).toHaveLength(2))
    const own = { name: 'Blind', note: '', priority: 2, suggestions: false, people: [2] }
    expect(sent(asked)).toEqual([
      ['PUT /desk/rounds/6', { ...own, open: false, texts: [], keep_texts: true, version: 1 }],
      ['PUT /desk/rounds/6', { ...own, open: true, texts: [1], keep_texts: false, version: 1 }],
    ])
    await press('delete', within(await screen.findByRole('region', { name: 'Blind' })))
    expect(screen.getByRole('dialog')).toHaveTextContent('The texts stay, and with them all that was marked and signed.')
    await press('delete the round')
    await waitFor(() => expect(written(asked).at(-1)?.what).toBe('DELETE /desk/rounds/6'))
  })

  it('shows annotators the rounds without acts that are the lead’s', async () => {
    openPlace(<DeskInFrame />, 'desk/1', { ...ANSWERS, ...IN_ROUNDS, 'GET /desk/rounds': { ...ROUNDS, rounds: [FIRST] } }, ANNOTATOR)
    await screen.findByText(/sentence 1 of 2/)
    await press('rounds')
    const buttons = region('First').getAllByRole('button')
    expect(buttons.map((button) => button.textContent)).toEqual(['work in it'])
    expect(screen.queryByRole('button', { name: 'new round' })).not.toBeInTheDocument()
  })
})
