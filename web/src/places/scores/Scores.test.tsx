import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { ScorecardShown } from '../../api/schema'
import { FIGURES, openPlace, Refusal, written } from '../../test/fake'
import { Scores } from './Scores'

const CARD: ScorecardShown = {
  id: 1, source: 'resolved', title: 'All together', f1: 0.6, f1_low: 0.5, f1_high: 0.7, created_at: '2026-08-04T10:00:00Z',
  texts: 12, learnt: '', sentences: 53, overall: { right: 3, missed: 3, surplus: 1, precision: 0.75, recall: 0.5, f1: 0.6 },
  types: {
    VES: { right: 3, missed: 1, surplus: 1, precision: 0.75, recall: 0.75, f1: 0.75 },
    PRT: { right: 0, missed: 2, surplus: 0, precision: null, recall: 0, f1: 0 },
  },
  changes: [],
}
const ANSWERS = { 'GET /scorecards': [CARD], 'GET /scorecards/1': CARD, 'GET /scorecards/1/sentences': { total: 0, staves: [] }, 'GET /desk/acceptance': [] }

describe('Scores', () => {
  it('shows strict figures per type and overall, with the interval', async () => {
    openPlace(<Scores />, 'scores/1', ANSWERS)
    expect(await screen.findByText(/95 % interval 50.0–70.0/)).toBeInTheDocument()
    const rows = [...document.querySelectorAll('tr[data-type]')].map((row) => [...row.querySelectorAll('td')].slice(2).map((td) => td.textContent))
    expect(rows).toEqual([
      ['75.0', '75.0', '75.0', '3', '1', '1'],
      ['–', '0.0', '0.0', '0', '2', '0'],
      ['75.0', '50.0', '60.0', '3', '3', '1'],
    ])
  })

  it.each([
    ['VES, missed: 1', { type: 'VES', outcome: 'missed' }],
    ['VES, precision 75.0', { type: 'VES', outcome: 'found' }],
    ['PRT, recall 0.0', { type: 'PRT', outcome: 'gold' }],
    ['all types, F1 60.0', { type: '', outcome: '' }],
  ])('opens the sentences behind “%s”', async (name, query) => {
    const { asked } = openPlace(<Scores />, 'scores/1', ANSWERS)
    await userEvent.click(await screen.findByRole('button', { name }))
    await waitFor(() => expect(asked.at(-1)).toEqual({ what: 'GET /scorecards/1/sentences', body: query }))
    expect(screen.getByRole('button', { name })).toHaveAttribute('aria-pressed', 'true')
  })

  it('says how often evidence was taken at the Desk', async () => {
    openPlace(<Scores />, 'scores/1', { ...ANSWERS, 'GET /desk/acceptance': [{ source: 'lists', taken: 3, turned_down: 1 }] })
    expect(await screen.findByText('75 % of 4')).toBeInTheDocument()
  })

  it('says that the tagger learnt from what nobody had signed', async () => {
    const card = { ...CARD, learnt: 'The tagger learnt from what lists find in 5 sentences alone; none of them was signed.' }
    openPlace(<Scores />, 'scores/1', { ...ANSWERS, 'GET /scorecards': [card], 'GET /scorecards/1': card })
    expect(await screen.findByText(card.learnt)).toBeInTheDocument()
    expect(screen.getByText(/learnt from lists, too/)).toBeInTheDocument()
  })

  it('says what has changed since', async () => {
    openPlace(<Scores />, 'scores/1', { ...ANSWERS, 'GET /scorecards/1': { ...CARD, changes: ['another tagger is in use'] } })
    expect(await screen.findByText('Since then another tagger is in use.')).toBeInTheDocument()
  })

  it('starts a scoring, and says why it cannot', async () => {
    const refusal = new Refusal(409, { detail: 'No sentence of the test split is signed.' })
    const { asked } = openPlace(<Scores />, 'scores', { 'GET /scorecards': [], 'POST /scorecards': refusal })
    await userEvent.click((await screen.findAllByRole('button', { name: 'score now' }))[0] as Element)
    expect(await screen.findByText('No sentence of the test split is signed.')).toBeInTheDocument()
    expect(written(asked)).toHaveLength(1)
  })

  it('shows that a scoring is going on', async () => {
    const job = { id: 1, kind: 'scoring', title: '', state: 'running', done: 0, total: 0, unit: '', message: '', created_at: '', started_at: null, finished_at: null }
    openPlace(<Scores />, 'scores/1', { ...ANSWERS, 'GET /figures': { ...FIGURES, running: [job] } })
    expect((await screen.findAllByText('scoring')).length).toBeGreaterThan(0)
    for (const button of screen.getAllByRole('button', { name: /scoring/ })) expect(button).toBeDisabled()
  })
})
