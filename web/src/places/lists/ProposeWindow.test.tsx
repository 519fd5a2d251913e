import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { JobShown, ListShown } from '../../api/schema'
import { openPlace, Refusal, written } from '../../test/fake'
import { Lists } from './Lists'
import { AS_EVER } from './options'

const LIST: ListShown = { id: 1, name: 'vessels', type: 'VES', on: true, options: AS_EVER, entries: 0, finds: 0, right: 0, judged: 0, version: 1 }
const PORTS: ListShown = { ...LIST, id: 2, name: 'ports', type: 'PRT' }
const JOB: JobShown = {
  id: 8, kind: 'propose spans', title: 'x', state: 'running', done: 40, total: 90, unit: 'texts', message: '', created_at: '2026-11-01T08:00:00Z', started_at: null, finished_at: null,
}
const ANSWERS = {
  'GET /lists': [LIST, PORTS, { ...LIST, id: 3, name: 'old ones', on: false }],
  'GET /lists/acts/latest': { act: null },
  'GET /lists/1/entries': { entries: [], next: null },
  'GET /lists/1/entries/counts': { all: 0, never: 0, harmful: 0, common: 0, two: 0, off: 0 },
  'GET /lists/1/missing': { total: 0, names: [] },
  'POST /desk/layers/from-lists': JOB,
}

async function opened(answers: Record<string, unknown> = {}) {
  const place = openPlace(<Lists />, 'lists/1', { ...ANSWERS, ...answers })
  await userEvent.click(await screen.findByRole('button', { name: 'propose spans' }))
  return { ...place, dialog: await screen.findByRole('dialog') }
}

describe('ProposeWindow', () => {
  it('proposes from the lists that are chosen, says how far it is, and leads to the Desk', async () => {
    let job = JOB
    const { asked, dialog } = await opened({ 'GET /jobs': () => [job] })
    expect(within(dialog).queryByText('old ones (VES)')).toBeNull()
    await userEvent.click(within(dialog).getByText('ports (PRT)'))
    await userEvent.click(within(dialog).getByRole('button', { name: 'propose' }))
    await waitFor(() => expect(written(asked).at(-1)).toEqual({ what: 'POST /desk/layers/from-lists', body: { name: 'from lists', lists: [1] } }))
    expect(await screen.findByText('40 of 90 texts')).toBeInTheDocument()
    job = { ...JOB, state: 'done', message: '3 spans in 2 unsigned sentences are proposed.' }
    expect(await screen.findByText(job.message)).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'to the Desk' })).toHaveAttribute('href', '/p/tessmar/desk')
  })

  it('is stopped, and says so', async () => {
    let job = JOB
    const stop = () => (job = { ...JOB, state: 'stopped', message: 'It was stopped; no layer was made.' })
    const { asked, dialog } = await opened({ 'GET /jobs': () => [job], 'POST /jobs/8/stop': stop })
    await userEvent.click(within(dialog).getByRole('button', { name: 'propose' }))
    await waitFor(() => expect(written(asked).at(-1)?.body).toEqual({ name: 'from lists', lists: null }))
    await userEvent.click(await screen.findByRole('button', { name: 'stop' }))
    expect(await screen.findByText('It was stopped; no layer was made.')).toBeInTheDocument()
    expect(screen.queryByRole('link', { name: 'to the Desk' })).toBeNull()
  })

  it('keeps what was chosen when the server refuses', async () => {
    const { dialog } = await opened({ 'POST /desk/layers/from-lists': new Refusal(422, { title: 'Bad input', detail: 'No list is chosen that is on.', field: 'lists' }) })
    await userEvent.click(within(dialog).getByRole('button', { name: 'propose' }))
    expect(await within(dialog).findByText('No list is chosen that is on.')).toBeInTheDocument()
  })
})
