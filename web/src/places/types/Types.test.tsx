import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import { ANNOTATOR, openPlace, Refusal, SCHEME, VES, written } from '../../test/fake'
import { Types } from './Types'

const TAKEN = new Refusal(409, { type: 'urn:urdaten:clash', detail: 'The key “v” is taken by “vessel”.', field: 'key' })

describe('Types', () => {
  it('shows the scheme and the chosen type with its examples', async () => {
    openPlace(<Types />, 'types/1', {})
    expect(await screen.findByText('A ship by its name.')).toBeInTheDocument()
    expect(within(screen.getByRole('listbox')).getAllByRole('option').map((row) => row.textContent)).toEqual(['vVESvessel12', 'pPRTport7'])
    expect(screen.getByText('Does not count')).toBeInTheDocument()
    expect(screen.getByText('A former name counts.')).toBeInTheDocument()
  })

  it('goes through the types by key', async () => {
    const { router } = openPlace(<Types />, 'types/1', {})
    await screen.findByText('A ship by its name.')
    await userEvent.keyboard('{ArrowDown}')
    expect(await screen.findByText('A port by its name.')).toBeInTheDocument()
    expect(router.state.location.pathname).toBe('/p/tessmar/types/2')
  })

  it('adds a type and offers a free key and hue', async () => {
    const { asked } = openPlace(<Types />, 'types', { 'POST /types': { ...VES, id: 9, code: 'TUG' } })
    await screen.findByText('A ship by its name.')
    await userEvent.keyboard('n')
    const window = await screen.findByRole('dialog')
    await userEvent.type(within(window).getByLabelText('code'), 'tug')
    await userEvent.type(within(window).getByLabelText('name'), 'vat')
    await userEvent.type(within(window).getByLabelText(/^counts/), 'Stout Ada\n\n Bollard ')
    await userEvent.type(within(window).getByLabelText(/^rulings/), 'Without MV.\n')
    await userEvent.click(within(window).getByRole('button', { name: 'add' }))
    expect(written(asked)).toEqual([
      {
        what: 'POST /types',
        body: { code: 'TUG', name: 'vat', key: 'a', hue: 0, definition: '', counts: ['Stout Ada', 'Bollard'], counts_not: [], rulings: ['Without MV.'] },
      },
    ])
  })

  it('shows a refusal at its field and keeps what was typed', async () => {
    openPlace(<Types />, 'types/2', { 'PUT /types/2': TAKEN })
    await screen.findByText('A port by its name.')
    await userEvent.click(screen.getByRole('button', { name: 'change' }))
    const window = await screen.findByRole('dialog')
    const key = within(window).getByLabelText('key')
    await userEvent.clear(key)
    await userEvent.type(key, 'v')
    await userEvent.click(within(window).getByRole('button', { name: 'change' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('taken by “vessel”')
    expect(key).toHaveAttribute('aria-invalid', 'true')
    expect(key).toHaveValue('v')
  })

  it('names what would be destroyed, and keeps it when the server refuses', async () => {
    const refusal = new Refusal(409, { detail: 'VES cannot be removed: it is used by 12 spans.' })
    openPlace(<Types />, 'types/1', { 'DELETE /types/1': refusal })
    await screen.findByText('A ship by its name.')
    await userEvent.click(screen.getByRole('button', { name: 'remove' }))
    const window = await screen.findByRole('dialog')
    expect(window).toHaveTextContent('12 gold spans')
    await userEvent.click(within(window).getByRole('button', { name: 'remove' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('used by 12 spans')
  })

  it('says what belongs into an empty scheme', async () => {
    openPlace(<Types />, 'types', { 'GET /types': { ...SCHEME, types: [] } })
    expect(await screen.findByText(/There is none\s+yet/)).toBeInTheDocument()
    expect(screen.getAllByRole('button', { name: 'new type' })).toHaveLength(2)
  })

  it('offers an annotator no acts', async () => {
    openPlace(<Types />, 'types/1', {}, ANNOTATOR)
    await screen.findByText('A ship by its name.')
    expect(screen.queryByRole('button', { name: /new type|change|remove/ })).toBeNull()
    await userEvent.keyboard('n')
    expect(screen.queryByRole('dialog')).toBeNull()
  })

  it('says when the server does not answer as it should, and tries again', async () => {
    let broken = true
    const answer = () => (broken ? new Refusal(500, { detail: 'Something unforeseen went wrong.' }) : SCHEME)
    openPlace(<Types />, 'types/1', { 'GET /types': answer })
    expect(await screen.findByText('Something unforeseen went wrong.')).toBeInTheDocument()
    broken = false
    await userEvent.click(screen.getByRole('button', { name: 'try again' }))
    expect(await screen.findByText('A ship by its name.')).toBeInTheDocument()
  })
})
