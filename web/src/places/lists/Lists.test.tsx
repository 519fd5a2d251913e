import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { EntryCounts, EntryExplained, EntryPage, EntryShown, HarmShown, ListActShown, ListShown, MissingPage, StavePage } from '../../api/schema'
import { ANNOTATOR, openPlace, Refusal, written } from '../../test/fake'
import { Lists } from './Lists'
import { AS_EVER } from './options'

const LIST: ListShown = { id: 1, name: 'vessels', type: 'VES', on: true, options: AS_EVER, entries: 2, finds: 9, right: 6, judged: 8, version: 1 }
const NO_WORTH = { finds: 0, judged: 0, right: 0, small: 0, harm: 0 }
const HALDIS: EntryShown = { id: 1, preferred: 'Haldis', variants: [], note: '', identifier: '', on: true, source: '', version: 1, worth: { finds: 4, judged: 3, right: 1, small: 2, harm: 0.5 } }
const OSTVAR: EntryShown = { ...HALDIS, id: 2, preferred: 'Ostvar II', variants: ['Ostvar 2'], note: 'coaster', identifier: 'V-7', worth: NO_WORTH }
const ENTRIES: EntryPage = { entries: [HALDIS, OSTVAR], next: null }
const COUNTS: EntryCounts = { all: 2, never: 1, harmful: 1, common: 1, two: 0, off: 0 }
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
  next: null,
}
const WHY: EntryExplained = { elsewhere: [{ list_id: 3, list: 'ports', entry_id: 9, preferred: 'Haldis' }], finds: FINDS, beaten: { tagger: 1 } }
const MISSING: MissingPage = {
  total: 1,
  names: [{ words: 'Ostvar', spans: 3, texts: 2, sentence_id: 7, kin: [{ entry_id: 2, preferred: 'Ostvar II', kind: 'fewer words' }] }],
}
const HARM: HarmShown = { entries: [HALDIS, { ...OSTVAR, worth: { ...NO_WORTH, judged: 1 } }], precision: 0.5, recall: 0.8, f1: 0.6154, precision_after: 0.9, recall_after: 0.7, f1_after: 0.7875 }
const ACT: ListActShown = { id: 5, list_id: 1, said: 'turning 1 name off', entries: 1, at: '2026-08-01T08:00:00Z', undone: false }
const ANSWERS = {
  'GET /lists': [LIST],
  'GET /lists/acts/latest': { act: null },
  'GET /lists/1/entries': ENTRIES,
  'GET /lists/1/entries/counts': COUNTS,
  'GET /lists/1/entries/1': HALDIS,
  'GET /lists/1/entries/2': OSTVAR,
  'GET /lists/1/entries/1/why': WHY,
  'GET /lists/1/entries/2/why': { elsewhere: [], finds: { total: 0, staves: [], next: null }, beaten: {} },
  'GET /lists/1/missing': MISSING,
  'GET /lists/1/harm': HARM,
  'GET /lists/1/finds': FINDS,
}
const names = () => screen.findByRole('listbox', { name: 'names' })

describe('Lists', () => {
  it('shows what each name is worth, and what explains the one at the cursor', async () => {
    openPlace(<Lists />, 'lists/1', ANSWERS)
    const row = await screen.findByRole('option', { name: /Haldis/ })
    expect(row).toHaveTextContent('finds 4right 1wrong 2F1 lost 0.50')
    expect(screen.getByText('also Ostvar 2')).toBeInTheDocument()
    await userEvent.keyboard('{ArrowDown}')
    expect(await screen.findByText('2 places, as any word')).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'ports' })).toHaveAttribute('href', '/p/tessmar/lists/3?entry=9')
    expect(screen.getByText('Not in the answer: 1 because of the tagger.')).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'at the Desk' })).toHaveAttribute('href', '/p/tessmar/desk/7?at=10')
    await userEvent.keyboard('{ArrowDown}')
    expect(await screen.findByText('It is found nowhere.')).toBeInTheDocument()
    expect(screen.getByText('V-7')).toBeInTheDocument()
  })

  it('opens with the name that the address has', async () => {
    openPlace(<Lists />, 'lists/1?entry=2', ANSWERS)
    expect(await screen.findByText('V-7')).toBeInTheDocument()
  })

  it('asks for the sentences of an outcome', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1?entry=1', ANSWERS)
    await userEvent.click(await screen.findByRole('button', { name: 'wrong 2' }))
    await waitFor(() => expect(asked.at(-1)).toEqual({ what: 'GET /lists/1/entries/1/why', body: { outcome: 'wrong' } }))
  })

  it.each([
    ['v', 'never'],
    ['h', 'harmful'],
    ['c', 'common'],
    ['w', 'two'],
    ['o', 'off'],
  ])('shows some of the names by one key: %s', async (key, show) => {
    const { asked } = openPlace(<Lists />, 'lists/1', ANSWERS)
    await names()
    await userEvent.keyboard(key)
    await waitFor(() => expect(asked.filter(({ what }) => what === 'GET /lists/1/entries').at(-1)?.body).toMatchObject({ show }))
  })

  it('finds of the whole list open their sentences', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1', ANSWERS)
    await userEvent.click(await screen.findByRole('button', { name: 'finds 9' }))
    await userEvent.click(await screen.findByRole('button', { name: 'wrong 2' }))
    await waitFor(() => expect(asked.at(-1)).toEqual({ what: 'GET /lists/1/finds', body: { outcome: 'wrong' } }))
  })

  it('turns a name off by one key', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1?entry=2', { ...ANSWERS, 'POST /lists/1/entries/switch': ACT })
    await screen.findByText('V-7')
    await userEvent.keyboard('t')
    await waitFor(() => expect(written(asked).at(-1)).toEqual({ what: 'POST /lists/1/entries/switch', body: { entries: [2], on: false } }))
  })

  it('adds a name with variants and keeps what was typed when it is refused', async () => {
    let refuse = true
    const answer = () => (refuse ? new Refusal(409, { detail: '“Haldis” is already in the list.', field: 'preferred' }) : HALDIS)
    const { asked } = openPlace(<Lists />, 'lists/1', { ...ANSWERS, 'POST /lists/1/entries': answer })
    await names()
    await userEvent.keyboard('+')
    const form = await screen.findByRole('dialog')
    await userEvent.type(within(form).getByLabelText('name'), 'Haldis')
    await userEvent.type(within(form).getByLabelText('variants'), 'Hald.; ; H.')
    await userEvent.click(within(form).getByRole('button', { name: 'add' }))
    expect(await within(form).findByRole('alert')).toHaveTextContent('already in the list')
    expect(within(form).getByLabelText('name')).toHaveValue('Haldis')
    refuse = false
    await userEvent.click(within(form).getByRole('button', { name: 'add' }))
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    expect(written(asked).at(-1)?.body).toEqual({ preferred: 'Haldis', variants: ['Hald.', 'H.'], note: '', identifier: '', on: true, source: '' })
  })

  it('turns off many at once, with a way back', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1', { ...ANSWERS, 'POST /lists/1/entries/switch': ACT, 'POST /lists/acts/5/undo': { entries: 1, left: 0 } })
    await userEvent.click(await screen.findByTitle('mark Haldis'))
    await userEvent.click(screen.getByRole('button', { name: 'turn off 1' }))
    await waitFor(() => expect(written(asked).at(-1)).toEqual({ what: 'POST /lists/1/entries/switch', body: { entries: [1], on: false } }))
    await userEvent.click(await screen.findByRole('button', { name: 'undo' }))
    await waitFor(() => expect(written(asked).at(-1)?.what).toBe('POST /lists/acts/5/undo'))
  })

  it('means all that are shown, and says how many were seen', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1', { ...ANSWERS, 'POST /lists/1/entries/delete': { ...ACT, said: 'the deletion of 1 name' } })
    await names()
    await userEvent.keyboard('v')
    await screen.findByRole('button', { name: 'never found 1', pressed: true })
    await userEvent.keyboard('{Control>}a{/Control}')
    await userEvent.click(within(await screen.findByRole('group', { name: 'marked names' })).getByRole('button', { name: 'delete' }))
    await waitFor(() => expect(written(asked).at(-1)?.body).toEqual({ filter: { search: '', show: 'never', order: 'name' }, expected: 1 }))
  })

  it('looks through what harms before it is turned off', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1', { ...ANSWERS, 'POST /lists/1/entries/switch': ACT })
    await names()
    await userEvent.keyboard('h')
    await userEvent.click(await screen.findByRole('button', { name: 'turn off what harms' }))
    const dialog = await screen.findByRole('dialog')
    expect(await within(dialog).findByRole('row', { name: 'F1 61.5 78.8' })).toBeInTheDocument()
    await userEvent.click(within(dialog).getByLabelText('Haldis'))
    await userEvent.click(within(dialog).getByRole('button', { name: 'turn off 1 name' }))
    await waitFor(() => expect(written(asked).at(-1)).toEqual({ what: 'POST /lists/1/entries/switch', body: { entries: [2], on: false } }))
  })

  it('offers names of gold, as entries or as variants', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1', { ...ANSWERS, 'POST /lists/1/entries': { ...HALDIS, preferred: 'Ostvar' }, 'PUT /lists/1/entries/2': OSTVAR })
    await names()
    await userEvent.keyboard('g')
    expect(await screen.findByText('some of its words')).toBeInTheDocument()
    await userEvent.keyboard('t')
    await waitFor(() => expect(written(asked).at(-1)?.body).toMatchObject({ preferred: 'Ostvar', source: 'gold' }))
    await userEvent.keyboard('r')
    await waitFor(() => expect(written(asked).at(-1)).toMatchObject({ what: 'PUT /lists/1/entries/2', body: { variants: ['Ostvar 2', 'Ostvar'], version: 1 } }))
  })

  it('says how names are looked for, and keeps what of it is changed', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1', { ...ANSWERS, 'PUT /lists/1': LIST })
    expect(await screen.findByText('Looked for: any case, but a name with a capital never in small letters.')).toBeInTheDocument()
    await userEvent.keyboard('e')
    const form = await screen.findByRole('dialog')
    await userEvent.click(within(form).getByText('other ways to write a name'))
    await userEvent.click(await within(form).findByLabelText(/^one typing slip/))
    await userEvent.click(within(form).getByText('words around it'))
    await userEvent.type(await within(form).findByLabelText('not right before'), 'berth; at quay')
    await userEvent.click(within(form).getByRole('button', { name: 'save' }))
    await waitFor(() => expect(written(asked).at(-1)?.body).toMatchObject({ options: { ...AS_EVER, slips: true, not_before: ['berth', 'at quay'] } }))
  })

  it('undoes what was done last', async () => {
    const { asked } = openPlace(<Lists />, 'lists/1', { ...ANSWERS, 'GET /lists/acts/latest': { act: ACT }, 'POST /lists/acts/5/undo': { entries: 1, left: 1 } })
    await names()
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(await screen.findByText('Undone: turning 1 name off; 1 name changed since and stayed.')).toBeInTheDocument()
    expect(written(asked).at(-1)?.what).toBe('POST /lists/acts/5/undo')
  })

  it('names what goes with a list', async () => {
    openPlace(<Lists />, 'lists/1', ANSWERS)
    await names()
    await userEvent.click(within(screen.getByRole('main')).getByRole('button', { name: 'delete' }))
    expect(await screen.findByRole('button', { name: 'delete it with 2 names' })).toBeInTheDocument()
  })

  it('lets an annotator read', async () => {
    openPlace(<Lists />, 'lists/1', ANSWERS, ANNOTATOR)
    await userEvent.click(await screen.findByText('also Ostvar 2'))
    expect(await screen.findByText('V-7')).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /add|delete|edit|new|turn/ })).toBeNull()
  })
})
