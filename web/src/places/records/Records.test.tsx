import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { RecordDetail, RecordPage, TemplateShown } from '../../api/schema'
import { openPlace, Refusal, written } from '../../test/fake'
import { Records } from './Records'

const TEMPLATE: TemplateShown = {
  id: 1, version: 1, name: 'Port call', anchor: 'vessel', records: 2, open: 1, stale: true,
  fields: [
    { name: 'vessel', types: ['VES'], cues: [], required: true },
    { name: 'from', types: ['PRT'], cues: ['from', 'ex'], required: true },
  ],
}
const PAGE: RecordPage = {
  records: [
    { id: 11, text_id: 1, text_title: '33/1', values: { vessel: 'Pellin', from: 'Varnby' }, missing: [] },
    { id: 12, text_id: 1, text_title: '33/1', values: { vessel: 'Haldis', from: '' }, missing: ['from'] },
  ],
  next: null,
}
const part = { value: 'Varnby', written: 'VARNBY', start: 18, end: 24, type: 'PRT', source: 'gold', why: 'after “from”; nearest vessel before it in the sentence' }
const detail = (i: number): RecordDetail => ({
  ...(PAGE.records[i] as RecordDetail),
  parts: i === 0 ? { from: [part] } : {},
  rivals: i === 0 ? [{ ...part, field: 'from', written: 'Ostvar', value: 'Ostvar' }] : [],
  staves: [],
})
const ANSWERS = {
  'GET /records/templates': [TEMPLATE],
  'GET /records/templates/1/records': PAGE,
  'GET /records/11': detail(0),
  'GET /records/12': detail(1),
}

describe('Records', () => {
  it('shows the table, the reasons for each value and what would also have fitted', async () => {
    openPlace(<Records />, 'records/1', ANSWERS)
    expect(await screen.findByText(/after “from”; nearest vessel before it in the sentence · gold/)).toBeInTheDocument()
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
    await userEvent.type(within(window).getAllByLabelText('cues')[1] as Element, 'for, bound')
    await userEvent.click(within(window).getByRole('button', { name: 'save' }))
    await waitFor(() => expect(written(asked)).toHaveLength(1))
    expect(written(asked)[0]?.body).toEqual({
      name: 'Port call',
      anchor: 'ship',
      fields: [
        { name: 'ship', types: ['VES'], cues: [], required: true },
        { name: 'to', types: ['PRT'], cues: ['for', 'bound'], required: false },
      ],
      version: 1,
    })
  })

  it('says what belongs here before anything has been assembled', async () => {
    openPlace(<Records />, 'records/1', { ...ANSWERS, 'GET /records/templates': [{ ...TEMPLATE, records: 0, open: 0, stale: false }], 'GET /records/templates/1/records': { records: [], next: null } })
    expect(await screen.findByText(/None has been assembled with this template/)).toBeInTheDocument()
    expect(screen.queryByRole('link', { name: 'CSV' })).toBeNull()
  })
})
