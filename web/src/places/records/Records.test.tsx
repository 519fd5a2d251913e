import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { FieldWish, RecordCounts, RecordDetail, RecordPage, TemplateShown } from '../../api/schema'
import { openPlace, Refusal, written } from '../../test/fake'
import { Records } from './Records'

const FIELD: FieldWish = {
  name: '', types: [], cues: [], required: false, description: '', many: false, shared: false, kind: 'none', unit: '', pattern: '',
  allowed: [], least: '', most: '', default: '', default_from: '',
}
const TEMPLATE: TemplateShown = {
  id: 1, version: 1, name: 'Port call', anchor: 'vessel', records: 2, open: 1, signed: 1, learnt_records: 0, stale: true,
  description: '', scope: 'text', each: 'entity', opens: [['from', 'to']],
  fields: [
    { ...FIELD, name: 'vessel', types: ['VES'], required: true, kind: 'name' },
    { ...FIELD, name: 'from', types: ['PRT'], cues: ['from', 'ex'], required: true, kind: 'name' },
  ],
}
const PAGE: RecordPage = {
  records: [
    { id: 11, text_id: 1, text_title: '33/1', values: { vessel: 'Pellin', from: 'Varnby' }, missing: [], looks: ['two values'], state: 'found', probability: 0.9 },
    { id: 12, text_id: 1, text_title: '33/1', values: { vessel: 'Haldis' }, missing: ['from'], looks: ['missing'], state: 'signed', probability: null },
  ],
  next: null,
}
const COUNTS: RecordCounts = {
  looks: [{ look: 'missing', words: 'lack a field that they need', records: 1 }],
  fields: [{ field: 'from', values: [{ value: 'Varnby', records: 3 }, { value: 'Ostvar', records: 1 }] }],
}
const part = { value: 'Varnby', written: 'VARNBY', start: 18, end: 24, type: 'PRT', source: 'gold', why: 'behind “from”; vessel right before it', probability: 0.97, speaks: [{ words: 'right behind its cue', weight: 2.5 }, { words: 'a stop between', weight: -1 }], against: 'to of Haldis' }
const detail = (i: number): RecordDetail => ({
  ...(PAGE.records[i] as RecordDetail),
  read: { from: i === 0 ? [{ text: 'Varnby', kind: 'name', how: 'list “Varnby”', fault: '' }] : [] },
  differs: i === 0 ? {} : { vessel: ['Haldis', ''] },
  signed_at: null,
  number: i + 1,
  of_text: 2,
  parts: i === 0 ? { from: [part] } : {},
  rivals: i === 0 ? [{ ...part, field: 'from', written: 'Ostvar', value: 'Ostvar' }] : [],
  staves: [],
})
const ANSWERS = {
  'GET /records/templates': [TEMPLATE],
  'GET /records/templates/1/records': PAGE,
  'GET /records/templates/1/counts': COUNTS,
  'GET /records/11': detail(0),
  'GET /records/12': detail(1),
}

describe('Records', () => {
  it('shows the table, the reasons for each value and what would also have fitted', async () => {
    openPlace(<Records />, 'records/1', ANSWERS)
    expect(await screen.findByText(/behind “from”; vessel right before it · 97 %/)).toBeInTheDocument()
    expect(screen.getByText('Would also fit')).toBeInTheDocument()
    expect(screen.getByText(/Something has changed since these were assembled/)).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'CSV' })).toHaveAttribute('href', '/api/projects/tessmar/records/templates/1/csv')
    expect(screen.getByRole('link', { name: 'JSON Lines' })).toHaveAttribute('href', '/api/projects/tessmar/records/templates/1/jsonl')
  })

  it('goes through the records by key and names what is missing', async () => {
    openPlace(<Records />, 'records/1', ANSWERS)
    await screen.findByText('Would also fit')
    await userEvent.keyboard('.')
    const side = screen.getByRole('complementary')
    await waitFor(() => expect(side).toHaveTextContent('missing'))
    expect(side).toHaveTextContent('open')
    expect(screen.getByRole('row', { name: /Haldis/ })).toHaveAttribute('aria-selected', 'true')
  })

  it('assembles by key and says why it cannot', async () => {
    const refusal = new Refusal(409, { detail: 'Records are being assembled already.' })
    openPlace(<Records />, 'records/1', { ...ANSWERS, 'POST /records/assembly': refusal })
    await screen.findByText('Would also fit')
    await userEvent.keyboard('a')
    expect(await screen.findByText('Records are being assembled already.')).toBeInTheDocument()
  })

  it('changes a template: renames the anchor, adds a field, drops another', async () => {
    const { asked } = openPlace(<Records />, 'records/1', { ...ANSWERS, 'PUT /records/templates/1': TEMPLATE })
    await userEvent.click(await screen.findByRole('button', { name: 'edit' }))
    const window = await screen.findByRole('dialog')
    const [first] = within(window).getAllByLabelText('field')
    await userEvent.clear(first as Element)
    await userEvent.type(first as Element, 'ship')
    await userEvent.click(within(window).getByRole('button', { name: 'delete field from' }))
    await userEvent.click(within(window).getByRole('button', { name: 'add a field' }))
    await userEvent.type(within(window).getAllByLabelText('field')[1] as Element, 'to')
    await userEvent.type(within(window).getAllByLabelText('types')[1] as Element, 'prt')
    await userEvent.type(within(window).getAllByLabelText('cues')[1] as Element, 'for, bound for')
    await userEvent.selectOptions(within(window).getAllByLabelText('read as')[1] as Element, 'quantity')
    await userEvent.click(within(window).getByRole('button', { name: 'more of field to' }))
    await userEvent.type(within(window).getByLabelText('unit of a bare number'), 't')
    await userEvent.clear(within(window).getByLabelText('only where one of these has a value'))
    await userEvent.type(within(window).getByLabelText('only where one of these has a value'), 'to; ship, to')
    await userEvent.click(within(window).getByRole('button', { name: 'save' }))
    await waitFor(() => expect(written(asked)).toHaveLength(1))
    expect(written(asked)[0]?.body).toEqual({
      name: 'Port call',
      anchor: 'ship',
      description: '',
      scope: 'text',
      each: 'entity',
      opens: [['to'], ['ship', 'to']],
      fields: [
        { ...FIELD, name: 'ship', types: ['VES'], required: true, kind: 'name' },
        { ...FIELD, name: 'to', types: ['PRT'], cues: ['for', 'bound for'], kind: 'quantity', unit: 't' },
      ],
      version: 1,
    })
  })

  it('says what belongs here before anything has been assembled', async () => {
    openPlace(<Records />, 'records/1', { ...ANSWERS, 'GET /records/templates': [{ ...TEMPLATE, records: 0, open: 0, stale: false }], 'GET /records/templates/1/records': { records: [], next: null } })
    expect(await screen.findByText(/None has been assembled with this template/)).toBeInTheDocument()
    expect(screen.queryByRole('link', { name: 'CSV' })).toBeNull()
  })

  it('tells what spoke for a link when it is asked', async () => {
    openPlace(<Records />, 'records/1', ANSWERS)
    await userEvent.click(await screen.findByRole('button', { name: 'why' }))
    expect(screen.getByText('against to of Haldis')).toBeInTheDocument()
    expect(screen.getByText('right behind its cue').parentElement).toHaveTextContent('+2.50')
    expect(screen.getByText('a stop between').parentElement).toHaveTextContent('−1.00')
  })

  it('signs by key, turns down, and withdraws', async () => {
    const { asked } = openPlace(<Records />, 'records/1', { ...ANSWERS, 'POST /records/11/sign': detail(0), 'POST /records/11/refuse': detail(0), 'POST /records/11/reopen': detail(0), 'POST /records/12/reopen': detail(1) })
    await screen.findByText('Would also fit')
    await userEvent.keyboard('{Enter}')
    await waitFor(() => expect(written(asked).map((one) => one.what)).toEqual(['POST /records/11/sign']))
    await userEvent.click(screen.getByRole('button', { name: 'turn down' }))
    await waitFor(() => expect(written(asked)).toHaveLength(2))
    await userEvent.click(await screen.findByRole('button', { name: 'undo' }))
    await waitFor(() => expect(written(asked).map((one) => one.what)).toContain('POST /records/11/reopen'))
    await userEvent.keyboard('.')
    expect(await screen.findByText('Would be found otherwise now')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'withdraw the signature' }))
    await waitFor(() => expect(written(asked).map((one) => one.what)).toEqual(['POST /records/11/sign', 'POST /records/11/refuse', 'POST /records/11/reopen', 'POST /records/12/reopen']))
  })

  it('narrows the table by what there is to look at or a value, and sorts it', async () => {
    const { asked } = openPlace(<Records />, 'records/1', ANSWERS)
    const wanted = () => asked.filter((one) => one.what === 'GET /records/templates/1/records').at(-1)?.body
    await userEvent.click(await screen.findByRole('button', { name: /lack a field/ }))
    await waitFor(() => expect(wanted()).toMatchObject({ look: 'missing' }))
    await userEvent.click(screen.getByRole('button', { name: /Varnby/ }))
    await waitFor(() => expect(wanted()).toMatchObject({ field: 'from', value: 'Varnby' }))
    expect(wanted()).not.toHaveProperty('look')
    await userEvent.click(screen.getByRole('button', { name: 'show all' }))
    await userEvent.click(screen.getByRole('button', { name: 'from' }))
    await waitFor(() => expect(wanted()).toMatchObject({ sort: 'from', down: 'false' }))
    await userEvent.click(screen.getByRole('button', { name: 'from ↑' }))
    await waitFor(() => expect(wanted()).toMatchObject({ sort: 'from', down: 'true' }))
  })

  it('forgets what was wanted of a template when another one is opened', async () => {
    const other = { ...TEMPLATE, id: 2, name: 'Incident', anchor: 'what', fields: [{ ...FIELD, name: 'what', types: ['INC'] }], opens: [] }
    const { asked } = openPlace(<Records />, 'records/1', {
      ...ANSWERS,
      'GET /records/templates': [TEMPLATE, other],
      'GET /records/templates/2/records': PAGE,
      'GET /records/templates/2/counts': { looks: [], fields: [] },
    })
    const wanted = (id: number) => asked.filter((one) => one.what === `GET /records/templates/${id}/records`).at(-1)?.body
    await userEvent.click(await screen.findByRole('button', { name: /Varnby/ }))
    await waitFor(() => expect(wanted(1)).toMatchObject({ field: 'from', value: 'Varnby' }))
    await userEvent.click(screen.getByRole('option', { name: /Incident/ }))
    await waitFor(() => expect(asked.map((one) => one.what)).toContain('GET /records/templates/2/records'))
    expect(wanted(2) ?? {}).not.toHaveProperty('field')
  })

  it('learns from what is signed, and takes a template from a JSON Schema', async () => {
    const { asked } = openPlace(<Records />, 'records/1', {
      ...ANSWERS,
      'POST /records/learning': new Refusal(409, { detail: 'Records are being learnt from already.' }),
      'POST /records/templates/schema': new Refusal(422, { detail: 'The schema has no title, which is the template’s name.' }),
    })
    await userEvent.click(await screen.findByRole('button', { name: 'learn from signed records' }))
    expect(await screen.findByText('Records are being learnt from already.')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'from a JSON Schema' }))
    const file = await screen.findByLabelText('JSON Schema, draft 2020-12')
    await userEvent.upload(file, new File(['[1]'], 'a.json', { type: 'application/json' }))
    expect(await screen.findByText('This file is no JSON document.')).toBeInTheDocument()
    await userEvent.upload(file, new File(['{"type":"object"}'], 'b.json', { type: 'application/json' }))
    expect(await screen.findByText(/The schema has no title/)).toBeInTheDocument()
    expect(written(asked).at(-1)?.body).toEqual({ schema_document: { type: 'object' } })
  })
})
