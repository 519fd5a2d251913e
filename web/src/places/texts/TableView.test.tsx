import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { RowShown, TablePage } from '../../api/schema'
import { openPlace } from '../../test/fake'
import { TableView } from './TableView'

const ROW: RowShown = {
  id: 1, title: '33/1', group: '', dated: '2026-08-17', split: 'train', meta: { Desk: 'night log' },
  cells: [{ type: 'VES', values: ['Pellin', 'Amber Quay'] }],
}
const PAGE: TablePage = { types: ['VES'], meta: ['Desk'], rows: [ROW], next: 1 }
const SECOND: TablePage = { ...PAGE, rows: [{ ...ROW, id: 2, title: '33/2', cells: [] }], next: null }
const ANSWERS = {
  'GET /findings/table': (query: unknown) => ((query as { after?: string }).after === undefined ? PAGE : SECOND),
  'GET /findings/sentences': { total: 0, staves: [], next: null },
  'GET /texts/metadata': { names: [] },
  'GET /texts/count': { total: 4, found: 2 },
}

describe('the table of texts', () => {
  it('has a row for each text, its values, and their sentences on demand', async () => {
    const { asked } = openPlace(<TableView />, 'texts/table?group=week-33&meta=a%3Db', ANSWERS)
    const cell = await screen.findByRole('button', { name: '2 values of VES in 33/1: Pellin; Amber Quay' })
    expect(screen.getByRole('link', { name: '33/1' })).toHaveAttribute('href', '/p/tessmar/texts/1')
    expect(screen.getByText('2 of 4 texts')).toBeInTheDocument()
    expect(screen.getByText('night log')).toBeInTheDocument()
    await userEvent.click(cell)
    expect(await screen.findByText('VES in 33/1 · 0 sentences')).toBeInTheDocument()
    expect(asked.findLast(({ what }) => what === 'GET /findings/sentences')?.body).toEqual({ group: 'week-33', meta: 'a=b', lane: 'gold', of: 'VES', text: '1' })
    await userEvent.click(cell)
    expect(screen.queryByText(/VES in 33\/1 ·/)).toBeNull()
    await userEvent.click(screen.getByText('metadata'))
    expect(screen.queryByText('night log')).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'more texts' }))
    expect(await screen.findByRole('link', { name: '33/2' })).toBeInTheDocument()
  })

  it('goes out as a file, of the texts that are shown', async () => {
    openPlace(<TableView />, 'texts/table?split=dev', ANSWERS)
    const link = await screen.findByRole('link', { name: 'export as XLSX' })
    expect(link).toHaveAttribute('href', '/api/projects/tessmar/findings/table/file?split=dev&lane=gold&format=xlsx')
    await userEvent.selectOptions(screen.getByLabelText('found by'), 'tagger')
    await waitFor(() => expect(screen.getByRole('link', { name: 'export as CSV' })).toHaveAttribute('href', expect.stringContaining('lane=tagger&format=csv')))
  })

  it('says when no text fits', async () => {
    openPlace(<TableView />, 'texts/table', { ...ANSWERS, 'GET /findings/table': { ...SECOND, rows: [] } })
    expect(await screen.findByText(/No text fits/)).toBeInTheDocument()
  })
})
