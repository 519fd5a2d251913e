import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { ComingLookedShown, ListImportShown, ListShown, NamesPlanWish } from '../../api/schema'
import { openPlace, Refusal, written } from '../../test/fake'
import { Lists } from './Lists'
import { AS_EVER } from './options'

const LIST: ListShown = { id: 1, name: 'vessels', type: 'VES', on: true, options: AS_EVER, entries: 0, finds: 0, right: 0, judged: 0, version: 1 }
const PLAN: NamesPlanWish = { kind: '', encoding: '', delimiter: '', header: null, roles: {}, parts: '', rest: 'keep', label: '' }
const row = (name: string, before = '') => ({ name, variants: ['H.'], place: 'line 2', before })
const LOOKED: ComingLookedShown = {
  found: { kind: 'csv', encoding: 'utf-8', guessed: false, delimiter: ',', header: true, columns: [{ name: 'name', role: 'name', values: ['Haldis'] }, { name: 'ruf', role: 'none', values: ['H.'] }] },
  counts: { new: 2, same: 0, changed: 1, variant: 0, double: 0, elsewhere: 1, refused: 1, unmet: 3 },
  samples: { new: [row('Haldis'), row('Osk')], same: [], changed: [row('Tern', 'Terns')], variant: [], double: [], elsewhere: [row('Osk', 'ports')], refused: [{ place: 'line 5', why: 'There is no name in it.', content: 'x' }] },
  labels: [],
  amiss: '',
}
const work = (state: 'running' | 'done', message = '') => ({ id: 8, kind: 'look into names', state, done: 5, unit: 'names read', message })
const READING: ListImportShown = { id: 4, list_id: 1, state: 'open', name: 'ships.csv', plan: PLAN, looked: null, act: null, work: work('running') }
const SEEN: ListImportShown = { ...READING, looked: LOOKED, work: work('done') }
const ANSWERS = {
  'GET /lists': [LIST],
  'GET /lists/acts/latest': { act: null },
  'GET /lists/1/entries': { entries: [], next: null },
  'GET /lists/1/entries/counts': { all: 0, never: 0, harmful: 0, common: 0, two: 0, off: 0 },
  'GET /lists/1/missing': { total: 0, names: [] },
  'POST /lists/1/imports/file': READING,
  'DELETE /lists/1/imports/4': undefined,
}

async function sent(answers: Record<string, unknown>) {
  const opened = openPlace(<Lists />, 'lists/1', { ...ANSWERS, ...answers })
  await screen.findByText('This list holds no name yet.')
  await userEvent.keyboard('i')
  const dialog = await screen.findByRole('dialog')
  await userEvent.upload(within(dialog).getByLabelText('file'), new File(['name\nHaldis\n'], 'ships.csv'))
  return { ...opened, dialog }
}

describe('ImportWindow', () => {
  it('shows what would come of a file, each kind with samples, and lets it be read otherwise', async () => {
    const { asked, dialog } = await sent({ 'GET /lists/1/imports/4': SEEN, 'PUT /lists/1/imports/4/plan': SEEN })
    expect(await within(dialog).findByRole('button', { name: '2 new', pressed: true })).toBeInTheDocument()
    expect(within(dialog).getByText('Haldis', { selector: 'div' })).toBeInTheDocument()
    await userEvent.click(within(dialog).getByRole('button', { name: '1 in other lists too' }))
    expect(within(dialog).getByText('in “ports”')).toBeInTheDocument()
    await userEvent.click(within(dialog).getByRole('button', { name: '1 cannot be kept' }))
    expect(within(dialog).getByText(/There is no name in it/)).toHaveTextContent('line 5: There is no name in it. x')
    await userEvent.selectOptions(within(dialog).getByLabelText('ruf'), 'variants')
    await waitFor(() => expect(written(asked).at(-1)).toEqual({ what: 'PUT /lists/1/imports/4/plan', body: { ...PLAN, header: true, roles: { name: 'name', ruf: 'variants' } } }))
    await userEvent.selectOptions(within(dialog).getByLabelText('3 names of the list that the file has not'), 'off')
    await waitFor(() => expect(written(asked).at(-1)?.body).toMatchObject({ rest: 'off' }))
  })

  it('takes the names of one label', async () => {
    const labelled = { ...SEEN, looked: { ...LOOKED, labels: [{ label: 'ship', names: 3 }, { label: 'port', names: 2 }] } }
    const { asked, dialog } = await sent({ 'GET /lists/1/imports/4': labelled, 'PUT /lists/1/imports/4/plan': labelled })
    const choice = await within(dialog).findByLabelText('names with the label')
    expect(within(choice).getAllByRole('option').map((option) => option.textContent)).toEqual(['any', 'ship (3)', 'port (2)'])
    await userEvent.selectOptions(choice, 'ship')
    await waitFor(() => expect(written(asked).at(-1)?.body).toMatchObject({ label: 'ship' }))
  })

  it('imports, and says so with a way back', async () => {
    let now = SEEN
    const keep = () => (now = { ...SEEN, state: 'kept', act: 9, work: work('done', '2 names are new, 1 name is changed.') })
    const { asked, dialog } = await sent({ 'GET /lists/1/imports/4': () => now, 'POST /lists/1/imports/4/keep': keep, 'POST /lists/acts/9/undo': { entries: 3, left: 0 } })
    await userEvent.click(await within(dialog).findByRole('button', { name: 'import 3 names' }))
    expect(await screen.findByText('2 names are new, 1 name is changed.')).toBeInTheDocument()
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    await userEvent.click(screen.getByRole('button', { name: 'undo' }))
    await waitFor(() => expect(written(asked).at(-1)?.what).toBe('POST /lists/acts/9/undo'))
  })

  it('is stopped while it reads, and drops the file when it is left', async () => {
    const { asked, dialog } = await sent({ 'GET /lists/1/imports/4': READING, 'POST /jobs/8/stop': {} })
    expect(await within(dialog).findByText('5 names read')).toBeInTheDocument()
    expect(within(dialog).getByRole('button', { name: /^import/ })).toBeDisabled()
    await userEvent.click(within(dialog).getByRole('button', { name: 'stop' }))
    await waitFor(() => expect(written(asked).at(-1)?.what).toBe('POST /jobs/8/stop'))
    await userEvent.click(within(dialog).getByRole('button', { name: 'cancel' }))
    await waitFor(() => expect(written(asked).at(-1)?.what).toBe('DELETE /lists/1/imports/4'))
  })

  it('says why nothing of a file can be kept', async () => {
    const amiss = { ...SEEN, looked: { ...LOOKED, found: null, amiss: 'The workbook is damaged.' } }
    const { dialog } = await sent({ 'GET /lists/1/imports/4': amiss })
    expect(await within(dialog).findByRole('alert')).toHaveTextContent('The workbook is damaged.')
    expect(within(dialog).getByRole('button', { name: /^import/ })).toBeDisabled()
  })

  it('says why a file is refused', async () => {
    const { dialog } = await sent({ 'POST /lists/1/imports/file': new Refusal(413, { detail: 'A file of names has at most 100 MB; split it up.' }) })
    expect(await within(dialog).findByRole('alert')).toHaveTextContent('at most 100 MB')
  })

  it('takes a list out in a format', async () => {
    openPlace(<Lists />, 'lists/1', ANSWERS)
    await screen.findByText('This list holds no name yet.')
    await userEvent.keyboard('x')
    const dialog = await screen.findByRole('dialog')
    await userEvent.selectOptions(within(dialog).getByLabelText('format'), 'turtle')
    expect(within(dialog).getByRole('link', { name: 'export 0 names' })).toHaveAttribute('href', '/api/projects/tessmar/lists/1/export?as=turtle')
  })
})
