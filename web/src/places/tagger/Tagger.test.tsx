import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { EpochShown, JobShown, SettingsHelp, SettingsWish, TrainingShown } from '../../api/schema'
import { openPlace, Refusal, SCHEME, written } from '../../test/fake'
import { Tagger } from './Tagger'

const JOB: JobShown = {
  id: 4, kind: 'training', title: 'Training', state: 'running', done: 2, total: 40, unit: 'epochs', message: '',
  created_at: '2026-08-04T10:00:00Z', started_at: '2026-08-04T10:00:00Z', finished_at: null,
}
const EPOCHS: EpochShown[] = [1, 2].map((n) => ({ epoch: n, epochs: 40, objective: 1 / n, train_f1: 0.9, dev_f1: 0.4 * n, best_epoch: n }))
const SETTINGS: SettingsWish = {
  method: 'crf', coding: 'BIO', optimiser: 'steps', epochs: 40, patience: 8, rate: 0.2, l2: 3, l1: 0, batch: 16, blank: 0.5, from_lists: 0, prune: 0.03, file_megabytes: 9.5,
  seconds: 0, megabytes: 4000, seed: 7, features: ['words'], types: [],
}
const TRAINING: TrainingShown = {
  id: 1, name: 'First', settings: SETTINGS, config: 'epochs = 40\n',
  job: JOB, epochs: EPOCHS, made_from: {}, in_use: false, has_model: false, live: true, can_repeat: false, changes: [],
  created_at: '2026-08-04T10:00:00Z',
}
const DONE: TrainingShown = {
  ...TRAINING, live: false, has_model: true, in_use: true, changes: ['gold has changed in 3 sentences'],
  job: { ...JOB, state: 'done', message: 'Ended after 2 epochs; epoch 2 was best and is kept.', finished_at: '2026-08-04T10:01:00Z' },
}
const QUICK: SettingsWish = { ...SETTINGS, method: 'perceptron', epochs: 10 }
const HELP: SettingsHelp = {
  choices: [{ name: 'method', title: 'model', group: 'Model', default: 'crf', options: ['crf', 'perceptron'], help: 'What is learnt.' }],
  settings: [{ name: 'epochs', title: 'most epochs', group: 'How long it trains', default: 40, least: 1, most: 1000, help: 'Training passes, at most.' }],
  features: [{ name: 'words', help: 'the word itself' }, { name: 'lists', help: 'names that the lists find' }],
  presets: [{ name: 'thorough', settings: { ...SETTINGS, features: ['words', 'lists'] } }, { name: 'quick', settings: QUICK }],
}
const ANSWERS = {
  'GET /trainings': [TRAINING], 'GET /api/training-settings': HELP, 'GET /scheme': SCHEME, 'GET /trainings/1/word-classes': [], 'GET /trainings/anew': { after: 0, signings: 7 },
}

const allSettings = (window: HTMLElement) => userEvent.click(within(window).getByRole('button', { name: 'all settings' }))

describe('Tagger', () => {
  it('says after how many signings it is trained anew, and changes that', async () => {
    const refusal = new Refusal(422, { detail: 'Give 1 to 10000 signings, or 0 for never.', field: 'after' })
    let bad = true
    const { asked } = openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'PUT /trainings/anew': () => (bad ? refusal : undefined) })
    expect(await screen.findByText(/7 signings in train and dev/)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'edit' }))
    const field = await screen.findByLabelText('after how many signings')
    await userEvent.clear(field)
    await userEvent.type(field, '50')
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    expect(await screen.findByText(/Give 1 to 10000 signings/)).toBeInTheDocument()
    expect(field).toHaveValue(50)
    bad = false
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    await waitFor(() => expect(screen.queryByRole('dialog')).not.toBeInTheDocument())
    expect(written(asked).at(-1)?.body).toEqual({ after: 50 })
  })

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
    // Whoever takes a preset is not bothered with the rest.
    expect(within(window).queryByLabelText('most epochs')).toBeNull()
    await allSettings(window)
    const epochs = within(window).getByLabelText('most epochs')
    await userEvent.clear(epochs)
    await userEvent.type(epochs, 'many')
    await userEvent.click(within(window).getByRole('button', { name: 'train' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('most epochs: “many” is not a number.')
    await userEvent.clear(epochs)
    await userEvent.type(epochs, '12')
    await userEvent.click(within(window).getByLabelText('lists'))
    await userEvent.click(within(window).getByRole('button', { name: 'train' }))
    await waitFor(() => expect(written(asked)).toEqual([{ what: 'POST /trainings', body: { name: 'Training 1', settings: { method: 'crf', epochs: 12, features: ['words'], types: [] } } }]))
  })

  it('shows a setting out of range at its field', async () => {
    const refusal = new Refusal(422, { detail: 'epochs is 0; it must lie between 1 and 1000.', field: 'epochs' })
    openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'POST /trainings': refusal })
    await screen.findByText(/epoch 2 of/)
    await userEvent.keyboard('n')
    const window = await screen.findByRole('dialog')
    await userEvent.click(within(window).getByRole('button', { name: 'train' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('between 1 and 1000')
    expect(within(window).getByLabelText('most epochs')).toHaveAttribute('aria-invalid', 'true')
  })

  it('says what has changed since the tagger in use was made', async () => {
    openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'GET /trainings': [DONE] })
    expect(await screen.findByText(/Since the tagger in use was made, gold has changed in 3 sentences/)).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /Stop|put to use|delete/ })).toBeNull()
  })

  it('offers to run an interrupted training again', async () => {
    const lost: TrainingShown = { ...TRAINING, live: false, can_repeat: true, job: { ...JOB, state: 'interrupted', message: 'The worker stopped in the middle of this.' } }
    const { asked } = openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'GET /trainings': [lost], 'POST /trainings/1/again': TRAINING })
    expect(await screen.findByText(/The worker stopped in the middle of this/)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'run again' }))
    await waitFor(() => expect(written(asked).map((a) => a.what)).toEqual(['POST /trainings/1/again']))
  })

  it('begins with a preset, or with what a config file says', async () => {
    const read = { ...SETTINGS, method: 'perceptron', epochs: 3, types: ['PRT'] }
    const { asked } = openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'POST /trainings/read-config': read, 'POST /trainings': TRAINING })
    await screen.findByText(/epoch 2 of/)
    await userEvent.keyboard('n')
    const window = await screen.findByRole('dialog')
    await userEvent.selectOptions(within(window).getByLabelText('start from'), 'quick')
    await allSettings(window)
    expect(within(window).getByLabelText('most epochs')).toHaveValue('10')
    expect(within(window).getByLabelText('model')).toHaveValue('perceptron')
    await userEvent.click(within(window).getByRole('button', { name: /config file/ }))
    await userEvent.type(within(window).getByLabelText('config file'), 'epochs = 3')
    await userEvent.click(within(window).getByRole('button', { name: 'import' }))
    await waitFor(() => expect(within(window).getByLabelText('most epochs')).toHaveValue('3'))
    expect(within(window).getByLabelText('PRT')).toBeChecked()
    await userEvent.click(within(window).getByRole('button', { name: 'train' }))
    await waitFor(() => expect(written(asked)).toHaveLength(2))
    expect(written(asked)[1]?.body).toEqual({ name: 'Training 2', settings: { method: 'perceptron', epochs: 3, features: ['words'], types: ['PRT'] } })
  })

  it('keeps a config file that cannot be read, with what is wrong', async () => {
    const refusal = new Refusal(422, { detail: 'There is no setting epoch; did you mean epochs?' })
    openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'POST /trainings/read-config': refusal })
    await screen.findByText(/epoch 2 of/)
    await userEvent.keyboard('n')
    const window = await screen.findByRole('dialog')
    await allSettings(window)
    await userEvent.click(within(window).getByRole('button', { name: /config file/ }))
    await userEvent.type(within(window).getByLabelText('config file'), 'epoch = 3')
    await userEvent.click(within(window).getByRole('button', { name: 'import' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('did you mean epochs?')
    expect(within(window).getByLabelText('config file')).toHaveValue('epoch = 3')
  })

  it('shows what was learnt of each type, and compares it with another training', async () => {
    const figures = (f1: number) => ({ by_type: [{ type: 'VES', train_spans: 30, dev_spans: 9, dev_f1: f1 }] })
    const one = { ...DONE, made_from: figures(0.8) }
    const two = { ...DONE, id: 2, name: 'Second', in_use: false, settings: { ...SETTINGS, l2: 1 }, made_from: figures(0.75) }
    const classes = [{ number: 7, words: ['pellin', 'haldis'], size: 2, type: 'VES' }]
    openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'GET /trainings': [two, one], 'GET /trainings/1/word-classes': classes })
    expect(await screen.findByText('pellin · haldis')).toBeInTheDocument()
    const row = screen.getAllByRole('row').find((r) => within(r).queryByText('VES'))
    expect(row).toHaveTextContent('VES30980.0')
    await userEvent.selectOptions(screen.getByLabelText('compare with'), 'Second')
    expect(row).toHaveTextContent('+5.0')
    expect(screen.getByRole('row', { name: 'l2 3 1' })).toBeInTheDocument()
    expect(screen.queryByRole('row', { name: /epochs/ })).toBeNull()
  })

  it('explains a setting when asked, and shows the config as a file', async () => {
    openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'GET /trainings': [DONE] })
    await userEvent.click(await screen.findByRole('button', { name: 'most epochs: 40, what it means' }))
    expect(screen.getByText(/Training passes, at most/)).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'as text' }))
    expect(await screen.findByLabelText('config file')).toHaveTextContent('epochs = 40')
  })

  it('takes up the settings of another training', async () => {
    const { asked } = openPlace(<Tagger />, 'tagger/1', { ...ANSWERS, 'GET /trainings': [{ ...DONE, settings: QUICK }], 'POST /trainings': TRAINING })
    await userEvent.click(await screen.findByRole('button', { name: 'use these settings' }))
    const window = await screen.findByRole('dialog')
    await allSettings(window)
    expect(within(window).getByLabelText('most epochs')).toHaveValue('10')
    await userEvent.click(within(window).getByRole('button', { name: 'train' }))
    await waitFor(() => expect(written(asked)[0]?.body).toMatchObject({ settings: { method: 'perceptron', epochs: 10, features: ['words'] } }))
  })
})
