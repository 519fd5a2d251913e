import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { JobShown } from '../api/schema'
import { ANNOTATOR, openPlace, written } from '../test/fake'
import { Counting } from './Counting'

const JOB: JobShown = {
  id: 5, kind: 'evidence', title: 'Finds are counted', state: 'running', done: 40, total: 1200, unit: 'texts', message: '',
  created_at: '2026-08-01T08:00:00Z', started_at: '2026-08-01T08:00:01Z', finished_at: null,
}
const standing = (job: Partial<JobShown> | null, behind = 0) => ({
  'GET /evidence': { texts: 1200, behind, job: job && { ...JOB, ...job } },
})

describe('Counting', () => {
  it('says how far the counting is and stops it', async () => {
    const { asked } = openPlace(<Counting />, 'lists', { ...standing({}), 'POST /jobs/5/stop': JOB })
    expect(await screen.findByText(/Finds are being counted: 40 of 1.200 texts\./)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'stop' }))
    await waitFor(() => expect(written(asked).at(-1)?.what).toBe('POST /jobs/5/stop'))
  })

  it('offers to go on where it was stopped or has failed', async () => {
    const answers = { ...standing({ state: 'stopped' }, 1160), 'POST /evidence/count': standing({})['GET /evidence'] }
    const { asked } = openPlace(<Counting />, 'lists', answers)
    expect(await screen.findByText(/Finds in 1.160 texts have yet to be counted\./)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'count the rest' }))
    await waitFor(() => expect(written(asked).at(-1)?.what).toBe('POST /evidence/count'))
  })

  it('says why it failed, and leaves acts to the lead', async () => {
    openPlace(<Counting />, 'lists', standing({ state: 'failed', message: 'The disk is full.' }, 3), ANNOTATOR)
    expect(await screen.findByText(/The disk is full\. Finds in 3 texts have yet to be counted\./)).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: 'count the rest' })).toBeNull()
  })

  it.each([
    ['nothing is behind', standing({ state: 'done' })],
    ['what was stopped has been counted since', standing({ state: 'stopped' })],
    ['the tagger reads', standing({ unit: 'texts tagged' })],
    ['nobody has counted yet', standing(null)],
  ])('is silent when %s', async (_, answers) => {
    const { asked } = openPlace(<Counting />, 'lists', answers)
    await waitFor(() => expect(asked.map(({ what }) => what)).toContain('GET /evidence'))
    expect(screen.queryByText(/counted/)).toBeNull()
  })
})
