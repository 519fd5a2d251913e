import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { AblationShown, JobShown, PipelinePlan, PipelineShown, PlanLookShown, WeighedShown, WeighingShown, WeightsShown } from '../../api/schema'
import { ANNOTATOR, FIGURES, openPlace, Refusal, written } from '../../test/fake'
import { ANSWERS, LOOK, NOW, PLAN, TRACE, VERSIONS } from './fixture'
import { Pipeline } from './Pipeline'
import { drafts } from './useDraft'

const TAGGER: PipelinePlan['stages'][number] = { name: 'tagger', kind: 'tagger', on: true, towards: {}, after_fault: 'go on', settings: { tagger: '', types: {}, least: 0, least_of: {}, also: 0 } }
const job = (state: string, more: Partial<JobShown> = {}): JobShown => ({
  id: 5, kind: 'weighing', title: '', state, done: 1, total: 4, unit: 'steps', message: '', created_at: '2026-08-04T10:00:00Z', started_at: null, finished_at: null, ...more,
})
const weights = (id: number): WeightsShown => ({
  id, created_at: '2026-08-04T11:00:00Z', least: 0.4, texts: 3, sentences: 9, train_texts: id === 7 ? 12 : 0,
  weighed: { right: 9, found: 10, gold: 10 }, now: { right: 6, found: 8, gold: 10 }, gain: { f1: 0.2333, low: -0.01, high: 0.4 },
})
const WEIGHED: PipelinePlan = { stages: [...PLAN.stages, TAGGER], policy: { ...PLAN.policy, kind: 'weighed', weights: '7' } }
const HELD: WeighingShown = { job: null, weights: [weights(7)] }
const SEEN: PlanLookShown = { ...LOOK, weights: { weights: weights(7), changes: ['“rules” is off'] } }
const weighed = (more = {}) => ({ ...ANSWERS, 'GET /pipeline': { ...NOW, version: { ...NOW.version, plan: WEIGHED } } satisfies PipelineShown, 'GET /pipeline/weights': HELD, 'POST /pipeline/look': SEEN, ...more })
const open = async () => userEvent.click(await screen.findByRole('button', { name: 'what stands in the end' }))
const region = async (name: string) => within(await screen.findByRole('region', { name }))

beforeEach(() => drafts.clear())

describe('a pipeline that weighs', () => {
  it('learns weights, says how far it is, and takes them once they are there', async () => {
    let stands: WeighingShown = { job: null, weights: [] }
    const begin = () => {
      stands = { job: job('running', { message: 'Dev texts are read by all stages.' }), weights: [] }
      return stands.job
    }
    const { asked, client } = openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'GET /pipeline/weights': () => stands, 'POST /pipeline/weights': begin })
    await open()
    await userEvent.selectOptions(screen.getByLabelText('of spans that may not stand together'), 'weighed')
    expect(await screen.findByText(/No weights have been learnt yet/)).toBeVisible()
    await userEvent.click(screen.getByLabelText('learn from train texts too'))
    await userEvent.click(screen.getByRole('button', { name: 'learn weights' }))
    expect(await screen.findByText('Dev texts are read by all stages.')).toBeVisible()
    expect(screen.getByRole('button', { name: 'stop' })).toBeVisible()
    expect(written(asked).at(-1)?.body).toMatchObject({ train: true, plan: { policy: { kind: 'weighed', weights: '' } } })
    stands = { job: job('done'), weights: [weights(7)] }
    await client.invalidateQueries()
    await waitFor(() => expect(screen.getByLabelText('weights')).toHaveValue('7'))
    expect(screen.getByText('F1 90.0')).toBeVisible()
    expect(screen.getByText(/Difference \+23\.3 \(95 % from −1\.0 to \+40\.0\)/)).toBeVisible()
    expect(screen.getByText(/9 signed dev sentences and 12 train texts/)).toBeVisible()
  })

  it('says that its weights have seen what it is measured on, and for which stages they were learnt', async () => {
    openPlace(<Pipeline />, 'pipeline', weighed())
    expect(await screen.findByText(/Its weights have seen these sentences; by folds.* F1 90\.0/)).toHaveTextContent('They were learnt for other stages: “rules” is off.')
  })

  it('takes what is less likely, or as it was learnt; and lets taggers have second thoughts', async () => {
    openPlace(<Pipeline />, 'pipeline', weighed())
    await open()
    const least = await screen.findByLabelText('least probability')
    expect(least).toHaveValue('0.4')
    await userEvent.clear(least)
    await userEvent.type(least, '0.3')
    expect(screen.getByText('It was learnt as 0.4.')).toBeVisible()
    await userEvent.click(screen.getByRole('button', { name: 'as it was learnt' }))
    expect(least).toHaveValue('0.4')
    await userEvent.click(screen.getByRole('button', { name: 'give it second thoughts' }))
    await userEvent.click(screen.getByRole('button', { name: 'tagger' }))
    expect(screen.getByLabelText('second thoughts down to')).toHaveValue('0.05')
  })

  it('tells why learning has failed', async () => {
    const failed = { job: job('failed', { message: 'Weighing learns from signed sentences.' }), weights: [weights(7)] }
    openPlace(<Pipeline />, 'pipeline', weighed({ 'GET /pipeline/weights': failed }))
    await open()
    expect(await screen.findByRole('alert')).toHaveTextContent('Weighing learns from signed sentences.')
  })

  it('offers annotators nothing to learn', async () => {
    openPlace(<Pipeline />, 'pipeline', weighed(), ANNOTATOR)
    await open()
    expect(await screen.findByLabelText('weights')).toBeVisible()
    expect(screen.queryByRole('button', { name: /learn/ })).toBeNull()
  })

  it('tells of each span that was weighed what speaks for it', async () => {
    const parts = [{ name: 'tagger, log odds', value: 3.2, adds: 2.4 }, { name: 'any span', value: 1, adds: -1.2 }]
    const told: WeighedShown = { probability: 0.77, least: 0.4, parts }
    const { asked } = openPlace(<Pipeline />, 'pipeline', weighed({ 'POST /pipeline/trace': TRACE, 'POST /pipeline/weigh': told }))
    const group = within(await screen.findByRole('group', { name: 'what was weighed' }))
    expect(group.getByText('dropped').parentElement).toHaveTextContent('VES “Haldis” · gave way to PRT')
    await userEvent.click(group.getByRole('button', { name: 'what speaks for VES “Haldis”' }))
    const why = await screen.findByRole('group', { name: 'what speaks for VES' })
    expect(why).toHaveTextContent('77.0 % likely; from 40.0 % on it stands.')
    expect(why).toHaveTextContent('+2.40tagger, log odds 3.2')
    expect(why).toHaveTextContent('−1.20any span')
    expect(asked.find(({ what }) => what === 'POST /pipeline/weigh')?.body).toMatchObject({ words: 'Haldis lies.', start: 0, end: 6, type: 'VES' })
  })
})

const row = (how: 'whole' | 'alone' | 'without', stage: string, more = {}) => ({ how, stage, fault: '', right: 8, found: 9, gold: 10, f1: 0.842, f1_low: 0.7, f1_high: 0.9, against: { f1: 0, low: 0, high: 0 }, ...more })
const COMPARED: AblationShown = {
  job: job('done', { kind: 'ablation' }), texts: 3, sentences: 9, changes: ['“lists” is off'],
  rows: [row('whole', ''), row('alone', 'lists', { against: { f1: -0.3, low: -0.4, high: -0.1 } }), row('without', 'rules', { against: { f1: 0.01, low: -0.02, high: 0.03 } }), row('without', 'gone', { fault: 'It names a list that is off.', f1: null, against: null })],
}

describe('stages compared', () => {
  it('shows each alone and the whole without it, how sure the difference is, and tries one', async () => {
    openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'GET /pipeline/ablation': COMPARED })
    const table = within(await screen.findByRole('table', { name: 'stages compared' }))
    const rows = table.getAllByRole('row').map((one) => one.textContent)
    expect(rows.slice(1)).toEqual([
      'the whole8 of 984.270.0 to 90.0',
      'lists alone8 of 984.270.0 to 90.0−30.0−40.0 to −10.0',
      'without rules8 of 984.270.0 to 90.0+1.0−2.0 to +3.0try it',
      'without goneIt names a list that is off.',
    ])
    expect((await region('ablation')).getByText(/the pipeline is another now: “lists” is off/)).toBeVisible()
    await userEvent.click(table.getByRole('button', { name: 'try without rules' }))
    expect(await screen.findByText('changed, not saved')).toBeVisible()
  })

  it('begins, and stops', async () => {
    let stands: AblationShown | null = null
    const { asked } = openPlace(<Pipeline />, 'pipeline', {
      ...ANSWERS,
      'GET /pipeline/ablation': () => stands,
      'POST /pipeline/ablation': () => (stands = { ...COMPARED, rows: [], job: job('running') }).job,
      'POST /jobs/5/stop': () => (stands = { ...COMPARED, rows: [], job: job('stopped', { message: 'Comparing the stages was stopped.' }) }).job,
    })
    await userEvent.click((await region('ablation')).getByRole('button', { name: 'compare the stages' }))
    await userEvent.click(await (await region('ablation')).findByRole('button', { name: 'stop' }))
    expect(await (await region('ablation')).findByText('Comparing the stages was stopped.')).toBeVisible()
    expect(written(asked).map(({ what }) => what).filter((what) => !what.includes('look') && !what.includes('trace'))).toEqual(['POST /pipeline/ablation', 'POST /jobs/5/stop'])
  })
})

describe('versions', () => {
  const VERSION = (name: string) => within(screen.getByRole('listitem', { name }))

  it('are compared: in what they differ, and in which sentences', async () => {
    const stave = { sentence_id: 4, text_id: 1, title: '33/1', number: 0, start: 0, end: 12, words: 'Haldis lies.', tokens: TRACE.sentences[0]?.tokens ?? [], signed: true, differs: true, lanes: { gold: [], before: [], after: [] } }
    const { asked } = openPlace(<Pipeline />, 'pipeline', {
      ...ANSWERS,
      'GET /pipeline/compare': { said: ['“rules” is new'], look: { ...LOOK, differing: 1, shown: [stave] } },
    })
    await screen.findByRole('list', { name: 'versions' })
    await userEvent.click(VERSION('version 1').getByRole('button', { name: 'compare version 1 with now' }))
    const both = await region('two versions')
    expect(await both.findByText('From one to the other “rules” is new.')).toBeVisible()
    expect(both.getByText(/F1 66\.7 and 66\.7 on 9 signed sentences/)).toBeVisible()
    expect(both.getByText('Haldis lies.')).toBeInTheDocument()
    await userEvent.selectOptions(both.getByLabelText('before'), '0')
    await waitFor(() => expect(asked.filter(({ what }) => what === 'GET /pipeline/compare').at(-1)?.body).toEqual({ before: '0', after: '2' }))
    await userEvent.click(both.getByRole('button', { name: 'close' }))
    expect(screen.queryByRole('region', { name: 'two versions' })).toBeNull()
  })

  it('have names, are published, and withdrawn', async () => {
    let stands = VERSIONS
    const put = (number: number, more: object) => (stands = stands.map((one) => (one.number === number ? { ...one, ...more } : one)))
    openPlace(<Pipeline />, 'pipeline', {
      ...ANSWERS,
      'GET /pipeline/versions': () => stands,
      'PUT /pipeline/versions/1/name': ({ name }: { name: string }) => (name === 'bad' ? new Refusal(422, { title: 'x', detail: 'Another version is called “bad”.', field: 'name' }) : put(1, { name })[1]),
      'POST /pipeline/versions/1/publish': () => (put(1, { published: true, has_bundle: true }), job('waiting')),
      'DELETE /pipeline/versions/1/publish': () => (put(1, { published: false, has_bundle: false }), stands[1]),
    })
    await screen.findByRole('list', { name: 'versions' })
    await userEvent.click(VERSION('version 1').getByRole('button', { name: 'name version 1' }))
    const dialog = within(await screen.findByRole('dialog'))
    await userEvent.type(dialog.getByLabelText('name'), 'bad')
    await userEvent.click(dialog.getByRole('button', { name: 'name' }))
    expect(await dialog.findByText('Another version is called “bad”.')).toBeVisible()
    await userEvent.clear(dialog.getByLabelText('name'))
    await userEvent.type(dialog.getByLabelText('name'), 'for the port')
    await userEvent.click(dialog.getByRole('button', { name: 'name' }))
    await waitFor(() => expect(VERSION('version 1, for the port')).toBeDefined())
    await userEvent.click(screen.getByRole('button', { name: 'publish version 1, for the port' }))
    expect(await VERSION('version 1, for the port').findByText(/published/)).toBeVisible()
    expect(screen.getByRole('link', { name: 'file of version 1, for the port' })).toHaveAttribute('href', '/api/projects/tessmar/pipeline/versions/1/bundle')
    await userEvent.click(screen.getByRole('button', { name: 'withdraw version 1, for the port' }))
    await waitFor(() => expect(screen.queryByRole('link', { name: 'file of version 1, for the port' })).toBeNull())
  })

  it('are told of while one is being published', async () => {
    openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'GET /figures': { ...FIGURES, running: [job('running', { kind: 'publishing', message: 'Everything is put into one file.' })] } })
    expect(await screen.findByText('Everything is put into one file.')).toBeVisible()
  })
})
