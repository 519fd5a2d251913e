import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { EpochShown, JobShown, SettingsHelp, TrainingShown } from '../../api/schema'
import { openPlace, Refusal, written } from '../../test/fake'
import { Tagger } from './Tagger'

const JOB: JobShown = {
  id: 4, kind: 'training', title: 'Training', state: 'running', done: 2, total: 40, unit: 'epochs', message: '',
  created_at: '2026-08-04T10:00:00Z', started_at: '2026-08-04T10:00:00Z', finished_at: null,
}
const EPOCHS: EpochShown[] = [1, 2].map((n) => ({ epoch: n, epochs: 40, objective: 1 / n, train_f1: 0.9, dev_f1: 0.4 * n, best_epoch: n }))
const TRAINING: TrainingShown = {
  id: 1, name: 'First', settings: { epochs: 40, patience: 8, rate: 0.2, l2: 0.05, batch: 16, seed: 7, features: ['words'] },
  job: JOB, epochs: EPOCHS, made_from: {}, in_use: false, has_model: false, live: true, can_repeat: false, changes: [],
  created_at: '2026-08-04T10:00:00Z',
}
const DONE: TrainingShown = {
  ...TRAINING, live: false, has_model: true, in_use: true, changes: ['gold has changed in 3 sentences'],
  job: { ...JOB, state: 'done', message: 'Ended after 2 epochs; epoch 2 was best and is kept.', finished_at: '2026-08-04T10:01:00Z' },
}
const HELP: SettingsHelp = {
  settings: [{ name: 'epochs', default: 40, least: 1, most: 1000, help: 'Training passes, at most.' }],
  features: ['words', 'lists'],
}
const ANSWERS = { 'GET /trainings': [TRAINING], 'GET /api/training-settings': HELP }

describe('Tagger', () => {
  it('shows a running training with its curve, and stops it by key', async () => {
    const { asked } = openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'POST /trainings/1/stop': TRAINING })
    expect(await screen.findByText(/epoch 2 of at most 40/)).toBeInTheDocument()
    expect(screen.getByRole('img', { name: 'F1 by epoch; best 80.0 at epoch 2' })).toBeInTheDocument()
    expect(screen.getByRole('progressbar', { name: 'epochs' })).toHaveAttribute('aria-valuenow', '2')
    await userEvent.keyboard('s')
    await waitFor(() => expect(written(asked).map((a) => a.what)).toEqual(['POST /trainings/1/stop']))
  })

  it('starts a training with the settings that were typed', async () => {
    const { asked } = openPlace(<Tagger />, 'tagger', { ...ANSWERS, 'GET /trainings': [], 'POST /trainings': TRAINING })
    await screen.findByText(/There is no\s+training yet/)
    await userEvent.keyboard('n')
    const window = await screen.findByRole('dialog')
    const epochs = within(window).getByLabelText('epochs')
    await userEvent.clear(epochs)
    await userEvent.type(epochs, 'many')
    await userEvent.click(within(window).getByRole('button', { name: 'train' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('epochs is not a number')
    await userEvent.clear(epochs)
    await userEvent.type(epochs, '12')
    await userEvent.click(within(window).getByLabelText('lists'))
    await userEvent.click(within(window).getByRole('button', { name: 'train' }))
    await waitFor(() => expect(written(asked)).toEqual([{ what: 'POST /trainings', body: { name: 'Training 1', settings: { epochs: 12, features: ['words'] } } }]))
  })

  it('shows a setting out of range at its field', async () => {
    const refusal = new Refusal(422, { detail: 'epochs is 0; it must lie between 1 and 1000.', field: 'epochs' })
    openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'POST /trainings': refusal })
    await screen.findByText(/epoch 2 of/)
    await userEvent.keyboard('n')
    const window = await screen.findByRole('dialog')
    await userEvent.click(within(window).getByRole('button', { name: 'train' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('between 1 and 1000')
    expect(within(window).getByLabelText('epochs')).toHaveAttribute('aria-invalid', 'true')
  })

  it('says what has changed since the tagger in use was made', async () => {
    openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'GET /trainings': [DONE] })
    expect(await screen.findByText(/Since the tagger in use was made, gold has changed in 3 sentences/)).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /Stop|put to use|remove/ })).toBeNull()
  })

  it('offers to run an interrupted training again', async () => {
    const lost: TrainingShown = { ...TRAINING, live: false, can_repeat: true, job: { ...JOB, state: 'interrupted', message: 'The worker stopped in the middle of this.' } }
    const { asked } = openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'GET /trainings': [lost], 'POST /trainings/1/again': TRAINING })
    expect(await screen.findByText(/The worker stopped in the middle of this/)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'run again' }))
    await waitFor(() => expect(written(asked).map((a) => a.what)).toEqual(['POST /trainings/1/again']))
  })
})
