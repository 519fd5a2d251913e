import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { BundlePartShown, IncomingShown, JobShown } from '../../api/schema'
import { ANNOTATOR, openPlace, written } from '../../test/fake'
import { ANSWERS, OLD } from './fixture'
import { Pipeline } from './Pipeline'
import { drafts } from './useDraft'

const job = (id: number, state: string, message = ''): JobShown => ({ id, kind: 'bundle', title: '', state, done: 1, total: 2, unit: 'steps', message, created_at: '2026-08-04T10:00:00Z', started_at: null, finished_at: null })
const part = (what: BundlePartShown['what'], name: string, how: BundlePartShown['how'], becomes = name): BundlePartShown => ({ what, name, becomes, how })
const LOOKED: IncomingShown = {
  job: job(8, 'done'), kept: false, plan: null, notes: ['Its abbreviations do not come along: cpt.'],
  arrivals: [part('type', 'VES', 'same'), part('list', 'ships', 'renamed', 'ships 2'), part('rule', 'berth', 'new')],
}
const IN: IncomingShown = { ...LOOKED, job: job(9, 'done'), kept: true, plan: OLD }
const FILE = new File(['x'], 'port.bundle')
const choose = async () => {
  await userEvent.click(await screen.findByRole('button', { name: 'bring in a bundle' }))
  await userEvent.upload(await screen.findByLabelText('file of a bundle, or of a tagger'), FILE)
}

beforeEach(() => drafts.clear())

describe('a bundle from elsewhere', () => {
  it('is looked through, brought in, and its stages are looked at before anybody saves them', async () => {
    const { asked } = openPlace(<Pipeline />, 'pipeline', {
      ...ANSWERS,
      'POST /pipeline/incoming/file': { ...LOOKED, job: job(8, 'waiting'), arrivals: [] },
      'GET /pipeline/incoming/8': LOOKED,
      'POST /pipeline/incoming/8/keep': { ...LOOKED, job: job(9, 'waiting') },
      'GET /pipeline/incoming/9': IN,
    })
    await choose()
    const coming = within(await screen.findByRole('group', { name: 'what comes' }))
    expect(coming.getByText('2 parts would come in; 1 is here already.')).toBeVisible()
    expect(coming.getAllByRole('listitem').map((one) => one.textContent)).toEqual(['list ships as “ships 2”', 'rule berth'])
    expect(coming.getByText('Its abbreviations do not come along: cpt.')).toBeVisible()
    await userEvent.click(screen.getByRole('button', { name: 'bring it in' }))
    await userEvent.click(await screen.findByRole('button', { name: 'look at its stages' }))
    expect(await screen.findByText('changed, not saved')).toBeVisible()
    expect(within(screen.getByRole('table', { name: 'stages' })).queryByRole('button', { name: 'rules' })).toBeNull()
    expect(written(asked).filter(({ what }) => what.startsWith('PUT'))).toEqual([])
  })

  it('says how far it is, and why it cannot be brought in; another file may be chosen then', async () => {
    let stands = { ...LOOKED, job: job(8, 'running', 'The file is read.'), arrivals: [] }
    openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'POST /pipeline/incoming/file': stands, 'GET /pipeline/incoming/8': () => stands })
    await choose()
    expect(await screen.findByText('The file is read.')).toBeVisible()
    stands = { ...stands, job: job(8, 'failed', 'This bundle cannot be read; of lists.bin: it is cut off.') }
    expect(await screen.findByText(/of lists.bin: it is cut off/)).toBeVisible()
    expect(screen.queryByRole('button', { name: 'bring it in' })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'choose another file' }))
    expect(screen.getByLabelText('file of a bundle, or of a tagger')).toBeVisible()
  })

  it('may have nothing new, and no stages', async () => {
    openPlace(<Pipeline />, 'pipeline', {
      ...ANSWERS,
      'POST /pipeline/incoming/file': { ...LOOKED, job: job(8, 'waiting') },
      'GET /pipeline/incoming/8': { ...LOOKED, kept: true, arrivals: [part('type', 'VES', 'same')], notes: [] },
    })
    await choose()
    expect(await screen.findByText('Everything that it has is here already.')).toBeVisible()
    expect(screen.queryByRole('button', { name: 'look at its stages' })).toBeNull()
  })

  it('is for leads', async () => {
    openPlace(<Pipeline />, 'pipeline', ANSWERS, ANNOTATOR)
    await screen.findByRole('table', { name: 'stages' })
    expect(screen.queryByRole('button', { name: 'bring in a bundle' })).toBeNull()
  })
})
