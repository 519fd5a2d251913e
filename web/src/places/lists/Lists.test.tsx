import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { EntryPage, ListShown, StavePage } from '../../api/schema'
import { ANNOTATOR, openPlace, Refusal, written } from '../../test/fake'
import { Lists } from './Lists'

const LIST: ListShown = { id: 1, name: 'vessels', type: 'VES', on: true, entries: 2, finds: 9, right: 6, judged: 8, version: 1 }
const ENTRIES: EntryPage = {
  entries: [
    { id: 1, preferred: 'Haldis', variants: [], note: '', version: 1 },
    { id: 2, preferred: 'Ostvar II', variants: ['Ostvar 2'], note: 'coaster', version: 1 },
  ],
  next: null,
}
const span = { start: 10, end: 16, type: 'VES', source: 'lists', probability: null, maker: '', why: '' }
const FINDS: StavePage = {
  total: 1,
  staves: [
    {
      sentence_id: 7, text_id: 1, title: '33/1', number: 0, start: 10, end: 19, words: 'Haldis in',
      tokens: [{ start: 10, end: 16 }, { start: 17, end: 19 }], signed: true, differs: true,
      lanes: { gold: [], lists: [span] },
    },
  ],
}
const ANSWERS = { 'GET /lists': [LIST], 'GET /lists/1/entries': ENTRIES, 'GET /lists/1/finds': FINDS }

describe('Lists', () => {
  it('shows what a list holds and finds, each figure opening its sentences', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1', ANSWERS)
    expect(await screen.findByRole('option', { name: 'Haldis' })).toBeInTheDocument()
    expect(screen.getByText('also Ostvar 2')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'wrong 2' }))
    await waitFor(() => expect(asked.at(-1)).toEqual({ what: 'GET /lists/1/finds', body: { outcome: 'wrong' } }))
    const link = await screen.findByRole('link', { name: 'at the Desk' })
    expect(link).toHaveAttribute('href', '/p/tessmar/desk/7?at=10')
    expect(document.querySelectorAll('[data-differs]')).toHaveLength(1)
  })

  it('says that a list finds nothing so far', async () => {
    const answers = { ...ANSWERS, 'GET /lists': [{ ...LIST, finds: 0, right: 0, judged: 0 }], 'GET /lists/1/finds': { total: 0, staves: [], next: null } }
    openPlace(<Lists />, 'lists/1', answers)
    expect(await screen.findByText('Nothing is found so far.')).toBeInTheDocument()
    expect(screen.getByRole('option', { name: /vessels/ })).toHaveTextContent('0 · –')
  })

  it('adds a name with variants and keeps what was typed when it is refused', async () => {
    let refuse = true
    const answer = () => (refuse ? new Refusal(409, { detail: '“Haldis” is already in the list.', field: 'preferred' }) : ENTRIES.entries[0])
    const { asked } = openPlace(<Lists />, 'lists/1', { ...ANSWERS, 'POST /lists/1/entries': answer })
    await screen.findByText('also Ostvar 2')
    await userEvent.type(screen.getByLabelText('new name'), 'Haldis')
    await userEvent.type(screen.getByLabelText(/^variants/), 'Hald.; ; H.')
    await userEvent.click(screen.getByRole('button', { name: 'add name' }))
    expect(await screen.findByRole('alert')).toHaveTextContent('already in the list')
    expect(screen.getByLabelText('new name')).toHaveValue('Haldis')
    refuse = false
    await userEvent.click(screen.getByRole('button', { name: 'add name' }))
    await waitFor(() => expect(screen.getByLabelText('new name')).toHaveValue(''))
    expect(written(asked).at(-1)?.body).toEqual({ preferred: 'Haldis', variants: ['Hald.', 'H.'], note: '' })
  })

  it('puts a removed name back with all that belonged to it', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1', { ...ANSWERS, 'DELETE /lists/1/entries/2': undefined, 'POST /lists/1/entries': ENTRIES.entries[1] })
    await userEvent.click(await screen.findByText('Ostvar II'))
    const row = screen.getByRole('option', { name: /Ostvar II/ })
    await userEvent.click(within(row).getByRole('button', { name: 'delete' }))
    expect(await screen.findByRole('button', { name: 'restore “Ostvar II”' })).toBeInTheDocument()
    await userEvent.click(screen.getByRole('main'))
    await userEvent.keyboard('{Control>}z{/Control}')
    await waitFor(() =>
      expect(written(asked).at(-1)).toEqual({ what: 'POST /lists/1/entries', body: { preferred: 'Ostvar II', variants: ['Ostvar 2'], note: 'coaster' } }),
    )
  })

  it('names what goes with a list', async () => {
    openPlace(<Lists />, 'lists/1', ANSWERS)
    await screen.findByText('also Ostvar 2')
    await userEvent.click(within(screen.getByRole('main')).getByRole('button', { name: 'delete' }))
    expect(await screen.findByRole('button', { name: 'delete it with 2 names' })).toBeInTheDocument()
  })

  it('lets an annotator read', async () => {
    openPlace(<Lists />, 'lists/1', ANSWERS, ANNOTATOR)
    await userEvent.click(await screen.findByText('also Ostvar 2'))
    expect(screen.queryByRole('button', { name: /add|delete|edit|new/ })).toBeNull()
  })
})
