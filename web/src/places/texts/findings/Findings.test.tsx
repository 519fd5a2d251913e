import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, describe, expect, it, vi } from 'vitest'

import type { StaveShown } from '../../../api/schema'
import { type Asked, openPlace, Refusal } from '../../../test/fake'
import { csvOf, svgOf } from './chart'
import { Findings } from './Findings'

const value = (name: string, spans: number) => ({ value: name, spans, sentences: spans, texts: spans })
const SUMMARY = {
  found: 3, total: 9, looked: 3,
  types: [
    { type: 'VES', spans: 12, values: 2, texts: 3, examples: [value('Amber Quay', 9), value('Pellin', 3)] },
    { type: 'PRT', spans: 0, values: 0, texts: 0, examples: [] },
  ],
}
const STAVE: StaveShown = {
  sentence_id: 5, text_id: 1, title: '33/1', number: 0, start: 0, end: 10, words: 'Pellin in.', signed: true, differs: false,
  tokens: [{ start: 0, end: 6 }, { start: 7, end: 9 }, { start: 9, end: 10 }] as StaveShown['tokens'], lanes: { gold: [] },
}
const ANSWERS = {
  'GET /findings': SUMMARY,
  'GET /findings/values': { values: [value('Amber Quay', 9), value('Pellin', 3)], total: 2, spans: 12 },
  'GET /findings/sentences': { total: 1, staves: [STAVE], next: null },
  'GET /texts/metadata': { names: ['Desk'] },
  'GET /texts/facets': { values: [{ value: 'train', texts: 6 }, { value: 'dev', texts: 3 }], more: false },
  'GET /rules': [],
}
const last = (asked: Asked[], what: string) => asked.findLast((one) => one.what === what)?.body

afterEach(() => vi.restoreAllMocks())

describe('Findings', () => {
  it('shows values as bars, each a way to its sentences', async () => {
    const { asked } = openPlace(<Findings />, 'texts/findings?split=train', ANSWERS)
    const bars = await screen.findByRole('list', { name: 'spans by value of VES' })
    expect(within(bars).getAllByRole('button').map((one) => one.textContent)).toEqual(['Amber Quay9', 'Pellin3'])
    expect(screen.getByText('3 of 9 texts')).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'table' })).toHaveAttribute('href', '/p/tessmar/texts/table?split=train')
    expect(await screen.findByText('All of VES · 1 sentence')).toBeInTheDocument()
    await userEvent.click(within(bars).getByRole('button', { name: /Pellin/ }))
    expect(await screen.findByText('Pellin · 1 sentence')).toBeInTheDocument()
    expect(last(asked, 'GET /findings/sentences')).toEqual({ split: 'train', lane: 'gold', of: 'VES', named: 'Pellin' })
    expect(screen.getByRole('link', { name: 'at the Desk' })).toHaveAttribute('href', '/p/tessmar/desk/5')
  })

  it('asks another source, and says when a type has nothing', async () => {
    const { asked } = openPlace(<Findings />, 'texts/findings', {
      ...ANSWERS,
      'GET /findings': ({ lane }: { lane: string }) => (lane === 'gold' ? SUMMARY : { ...SUMMARY, types: SUMMARY.types.slice(1) }),
    })
    await screen.findByRole('list')
    await userEvent.selectOptions(screen.getByLabelText('found by'), 'rules')
    await waitFor(() => expect(last(asked, 'GET /findings')).toEqual({ lane: 'rules' }))
    expect(await screen.findByText(/finds no span of this type/)).toBeInTheDocument()
  })

  it('tells spans over time, and why there are none', async () => {
    let bins = [{ since: '2026-07-06', until: '2026-07-12', spans: 4 }]
    const { asked } = openPlace(<Findings />, 'texts/findings', { ...ANSWERS, 'GET /findings/time': () => ({ bins, undated: 2 }) })
    await screen.findByRole('list')
    await userEvent.keyboard('2')
    await userEvent.click(await screen.findByRole('button', { name: /week of 6 Jul 2026/ }))
    expect(screen.getByText('2 texts have no date and are left out.')).toBeInTheDocument()
    await waitFor(() => expect(last(asked, 'GET /findings/sentences')).toEqual({ lane: 'gold', of: 'VES', first: '2026-07-06', last: '2026-07-12' }))
    bins = []
    await userEvent.selectOptions(screen.getByLabelText('by'), 'month')
    expect(await screen.findByText(/None of these texts has a date/)).toBeInTheDocument()
  })

  it('says why there are no stretches', async () => {
    openPlace(<Findings />, 'texts/findings', { ...ANSWERS, 'GET /findings/time': new Refusal(422, { detail: 'That is more than 400 stretches; choose a longer one.' }) })
    await userEvent.click(await screen.findByRole('button', { name: 'over time' }))
    expect(await screen.findByText(/more than 400 stretches/)).toBeInTheDocument()
  })

  it('shows what stands together, cell by cell', async () => {
    const { asked } = openPlace(<Findings />, 'texts/findings', { ...ANSWERS, 'GET /findings/together': { rows: ['Pellin'], columns: ['Lindmoor', 'Ostvar'], counts: [[4, 0]] } })
    await userEvent.click(await screen.findByRole('button', { name: 'together' }))
    await userEvent.selectOptions(screen.getByLabelText('where'), 'in one text')
    await waitFor(() => expect(last(asked, 'GET /findings/together')).toEqual({ lane: 'gold', of: 'VES', beside: 'PRT', scope: 'text' }))
    await userEvent.click(await screen.findByRole('button', { name: '4: Pellin with Lindmoor' }))
    expect(screen.queryByRole('button', { name: /Ostvar/ })).toBeNull()
    await waitFor(() => expect(last(asked, 'GET /findings/sentences')).toEqual({ lane: 'gold', of: 'VES', named: 'Pellin', beside: 'PRT', beside_named: 'Lindmoor', scope: 'text' }))
  })

  it('compares two parts of the texts', async () => {
    const told = { one: [{ name: 'Pellin', one: 5, other: 1, z: 2.34 }], other: [], one_texts: 6, other_texts: 3, most_read: 5 }
    const { asked } = openPlace(<Findings />, 'texts/findings', { ...ANSWERS, 'GET /findings/comparison': told })
    await userEvent.click(await screen.findByRole('button', { name: 'comparison' }))
    expect(await screen.findByText('2.3')).toBeInTheDocument()
    expect(screen.getByText('Nothing is more frequent here.')).toBeInTheDocument()
    expect(last(asked, 'GET /findings/comparison')).toEqual({ lane: 'gold', of: 'VES', by: 'split', one: 'train', other: '' })
    await userEvent.selectOptions(screen.getByLabelText('against'), 'dev · 3')
    await userEvent.selectOptions(screen.getByLabelText('compare'), 'words of the texts')
    await waitFor(() => expect(last(asked, 'GET /findings/comparison')).toEqual({ lane: 'gold', of: '', by: 'split', one: 'train', other: 'dev' }))
  })

  it('sets words in their context, with a way to the Desk and to a file', async () => {
    const saved: string[] = []
    vi.spyOn(URL, 'createObjectURL').mockImplementation((file) => {
      void (file as Blob).text().then((words) => saved.push(words))
      return 'blob:x'
    })
    vi.spyOn(URL, 'revokeObjectURL').mockImplementation(() => undefined)
    vi.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(() => undefined)
    const places = [{ text: 1, title: '33/1', sentence: 5, start: 12, before: 'The tug', words: 'amber', after: '=quay, "in"' }]
    const { asked } = openPlace(<Findings />, 'texts/findings', { ...ANSWERS, 'GET /rules': [{ name: 'berth' }], 'GET /findings/context': { places, more: false } })
    await userEvent.click(await screen.findByRole('button', { name: 'in context' }))
    expect(await screen.findByRole('link', { name: 'amber' })).toHaveAttribute('href', '/p/tessmar/desk/5?at=12')
    expect(last(asked, 'GET /findings/context')).toEqual({ lane: 'gold', of: 'VES', sort: 'text' })
    await userEvent.selectOptions(screen.getByLabelText('found by the rule'), 'berth')
    await waitFor(() => expect(last(asked, 'GET /findings/context')).toEqual({ lane: 'gold', rule: 'berth', sort: 'text' }))
    await userEvent.type(screen.getByLabelText('words'), 'amber')
    await userEvent.selectOptions(screen.getByLabelText('sorted'), 'by words after')
    await waitFor(() => expect(last(asked, 'GET /findings/context')).toEqual({ lane: 'gold', words: 'amber', sort: 'right' }))
    await userEvent.click(screen.getByRole('button', { name: 'save as CSV' }))
    await waitFor(() => expect(saved).toEqual(['text,before,words,after\r\n33/1,The tug,amber,"\'=quay, ""in"""\r\n']))
  })
})

describe('charts as files', () => {
  it('draws bars from zero on, with names that cannot break the picture', () => {
    const picture = new DOMParser().parseFromString(svgOf('Spans of <VES>', [{ name: 'A & "B"', count: 8 }, { name: 'C', count: 2 }]), 'image/svg+xml')
    expect(picture.querySelector('parsererror')).toBeNull()
    const [first, second] = [...picture.querySelectorAll('rect')].map((bar) => Number(bar.getAttribute('width')))
    expect(first).toBe(4 * (second ?? 0))
    expect(picture.documentElement.textContent).toContain('A & "B"')
    expect(picture.querySelector('title')?.textContent).toBe('Spans of <VES>')
  })

  it('quotes what has to be quoted', () => {
    expect(csvOf(['a', 'b'], [['x,y', 1], ['-z', 2.5], ['l\nm', 0]])).toBe('a,b\r\n"x,y",1\r\n\'-z,2.5\r\n"l\nm",0\r\n')
  })
})
