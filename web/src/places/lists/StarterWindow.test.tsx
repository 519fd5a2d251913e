import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { ListImportShown, ListShown } from '../../api/schema'
import { openPlace, Refusal, written } from '../../test/fake'
import { Lists } from './Lists'
import { AS_EVER } from './options'

const LIST: ListShown = { id: 1, name: 'vessels', type: 'VES', on: true, options: AS_EVER, entries: 0, finds: 0, right: 0, judged: 0, version: 1 }
const PLAN = { kind: '', encoding: '', delimiter: '', header: null, roles: {}, parts: '', rest: 'keep', label: '' }
const work = (state: 'running' | 'done' | 'failed', message = '') => ({ id: 8, kind: 'import names', state, done: 0, unit: '', message })
const TAKING: ListImportShown = { id: 4, list_id: 1, state: 'open', name: 'general lexicon, port.jsonl', plan: PLAN, looked: null, act: null, work: work('running') }
const PORT = { number: 20, words: ['port', 'harbour'], meaning: 'where ships lie; "a port in sight"', names: 2, kinds: 1 }
const NAMES = {
  total: 2,
  names: [
    { number: 40, words: ['Varnby', 'Varnby-on-Sea'], meaning: 'a port' },
    { number: 50, words: ['Osk'], meaning: 'on a rock' },
  ],
  narrower: [{ ...PORT, number: 30, words: ['free port'] }],
  next: null,
}
const ANSWERS = {
  'GET /lists': [LIST],
  'GET /lists/acts/latest': { act: null },
  'GET /lists/1/entries': { entries: [], next: null },
  'GET /lists/1/entries/counts': { all: 0, never: 0, harmful: 0, common: 0, two: 0, off: 0 },
  'GET /lists/1/missing': { total: 0, names: [] },
  'GET /starters': { installed: true, kinds: [{ kind: 'place', names: 2, words: 3 }] },
  'GET /starters/meanings': [PORT],
  'GET /starters/names': NAMES,
  'POST /starters/take': TAKING,
}

async function opened(answers: Record<string, unknown> = {}) {
  const place = openPlace(<Lists />, 'lists/1', { ...ANSWERS, ...answers })
  await screen.findByText('This list holds no name yet.')
  await userEvent.keyboard('s')
  return { ...place, dialog: await screen.findByRole('dialog') }
}

describe('StarterWindow', () => {
  it('searches a meaning, marks some of its names and takes them into a list', async () => {
    let now = TAKING
    const { asked, dialog } = await opened({ 'GET /lists/1/imports/4': () => now, 'POST /lists/acts/9/undo': { entries: 1, left: 0 } })
    await userEvent.type(await within(dialog).findByLabelText(/^search for a kind/), 'port')
    const found = await within(dialog).findByRole('group', { name: 'meanings' })
    expect(found).toHaveTextContent('2 names, 1 word · where ships lie')
    await userEvent.click(within(found).getByRole('button', { name: 'port, harbour' }))
    await userEvent.click(await within(dialog).findByRole('option', { name: /Osk/ }))
    await userEvent.keyboard('m')
    await userEvent.selectOptions(within(dialog).getByLabelText('take them into'), 'vessels')
    await userEvent.click(within(dialog).getByRole('button', { name: 'take 1 name' }))
    await waitFor(() => expect(written(asked).at(-1)).toEqual({ what: 'POST /starters/take', body: { kind: '', beneath: 20, sort: 'names', search: '', list_id: 1, numbers: [50] } }))
    expect(within(dialog).getByRole('status')).toHaveTextContent('The names are taken into the list.')
    now = { ...TAKING, state: 'kept', act: 9, work: work('done', '1 name is new.') }
    expect(await screen.findByText('1 name is new.')).toBeInTheDocument()
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    await userEvent.click(screen.getByRole('button', { name: 'undo' }))
    await waitFor(() => expect(written(asked).at(-1)?.what).toBe('POST /lists/acts/9/undo'))
  })

  it('takes all of a kind into a new list, and stays when that fails', async () => {
    const failed = { ...TAKING, work: work('failed', 'The list is full.') }
    const { asked, dialog } = await opened({ 'POST /lists': { ...LIST, id: 1, name: 'place' }, 'GET /lists/1/imports/4': failed })
    await userEvent.click(await within(dialog).findByRole('button', { name: 'place' }))
    const take = await within(dialog).findByRole('button', { name: 'take 2 names' })
    expect(take).toBeDisabled()
    await userEvent.selectOptions(within(dialog).getByLabelText('type of its names'), 'VES')
    await userEvent.click(take)
    await waitFor(() => expect(written(asked).map(({ what }) => what)).toEqual(['POST /lists', 'POST /starters/take']))
    expect(written(asked)[0]?.body).toMatchObject({ name: 'place', type: 'VES' })
    expect(written(asked)[1]?.body).toMatchObject({ kind: 'place', sort: 'names', numbers: null, list_id: 1 })
    expect(await screen.findByText('The list is full.')).toBeInTheDocument()
    expect(within(dialog).getByRole('button', { name: 'take 2 names' })).toBeEnabled()
  })

  it('narrows to a meaning, and goes back to choose another', async () => {
    const { asked, dialog } = await opened()
    await userEvent.click(await within(dialog).findByRole('button', { name: 'place' }))
    await userEvent.click(await within(dialog).findByRole('button', { name: 'free port 2' }))
    await waitFor(() => expect(asked.at(-1)).toMatchObject({ what: 'GET /starters/names', body: { beneath: '30', sort: 'names' } }))
    await userEvent.click(within(dialog).getByRole('button', { name: 'choose another' }))
    expect(await within(dialog).findByLabelText(/^search for a kind/)).toBeInTheDocument()
  })

  it('says so where no lexicon is installed', async () => {
    const { dialog } = await opened({ 'GET /starters': { installed: false, kinds: [] } })
    expect(await within(dialog).findByRole('alert')).toHaveTextContent('wordnet-base')
  })

  it('says what the server says', async () => {
    const { dialog } = await opened({ 'GET /starters/names': new Refusal(404, { title: 'Not found', detail: 'The general lexicon has no meaning 20.' }) })
    await userEvent.click(await within(dialog).findByRole('button', { name: 'place' }))
    expect(await within(dialog).findByText('The general lexicon has no meaning 20.')).toBeInTheDocument()
  })
})
