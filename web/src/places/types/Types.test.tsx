import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { VersionShown } from '../../api/schema'
import { ANNOTATOR, openPlace, PRT, Refusal, SCHEME, VES, written } from '../../test/fake'
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
        body: { code: 'TUG', name: 'vat', key: 'a', hue: 0, definition: '', counts: ['Stout Ada', 'Bollard'], counts_not: [], rulings: ['Without MV.'], parent: null, value_kind: 'none' },
      },
    ])
  })

  it('shows a refusal at its field and keeps what was typed', async () => {
    openPlace(<Types />, 'types/2', { 'PUT /types/2': TAKEN })
    await screen.findByText('A port by its name.')
    await userEvent.click(screen.getByRole('button', { name: 'edit' }))
    const window = await screen.findByRole('dialog')
    const key = within(window).getByLabelText('key')
    await userEvent.clear(key)
    await userEvent.type(key, 'v')
    await userEvent.click(within(window).getByRole('button', { name: 'save' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('taken by “vessel”')
    expect(key).toHaveAttribute('aria-invalid', 'true')
    expect(key).toHaveValue('v')
  })

  it('shows what retiring touches, and lets nothing go while something bars it', async () => {
    const bars = ['list “vessels” still uses VES']
    const touched = [
      { where: 'gold', noun: 'span', count: 12, names: [], bars: false },
      { where: 'lists', noun: 'list', count: 1, names: ['vessels'], bars: true },
    ]
    openPlace(<Types />, 'types/1', { 'GET /types/1/touched': { scheme: 3, touched, bars } })
    await userEvent.click(await screen.findByRole('button', { name: 'retire' }))
    const window = await screen.findByRole('dialog')
    expect(await within(window).findByText('12 spans')).toBeInTheDocument()
    expect(within(window).getByRole('alert')).toHaveTextContent('list “vessels” still uses VES')
    expect(within(window).getByRole('button', { name: 'retire VES' })).toBeDisabled()
  })

  it('merges one type into another as it was looked at, and says when the scheme has changed since', async () => {
    const refusal = new Refusal(409, { detail: 'The scheme was changed in the meantime.' })
    let looked = 3
    const { asked } = openPlace(<Types />, 'types/1', {
      'GET /types/1/touched': () => ({ scheme: looked, touched: [], bars: [] }),
      'POST /types/1/merge': (wish: { scheme: number }) => (wish.scheme === 3 ? refusal : PRT),
    })
    await userEvent.click(await screen.findByRole('button', { name: 'merge' }))
    const window = await screen.findByRole('dialog')
    await within(window).findByText('Nothing uses it.')
    looked = 4
    await userEvent.click(within(window).getByRole('button', { name: 'merge VES into PRT' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('changed in the meantime')
    await waitFor(() => expect(asked.filter(({ what }) => what === 'GET /types/1/touched')).toHaveLength(2))
    await userEvent.click(within(window).getByRole('button', { name: 'merge VES into PRT' }))
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    expect(written(asked).map(({ body }) => body)).toEqual([{ into: 2, scheme: 3 }, { into: 2, scheme: 4 }])
  })

  it('compares versions of the scheme and goes back to one', async () => {
    const version = (number: number, step: VersionShown['step']): VersionShown => ({ number, digest: '', who: 'Ines', at: '2026-08-01T08:00:00Z', types: 2, step })
    const { asked } = openPlace(<Types />, 'types/1', {
      'GET /types/versions': [version(3, [{ what: 'merged', code: 'TUG', into: 'VES' }]), version(2, [{ what: 'added', code: 'PRT', into: null }])],
      'GET /types/versions/compare': {
        before: 2, after: 3, overlap_before: 'apart', overlap_after: 'nested',
        differences: [{ code: 'VES', what: 'changed', fields: [{ name: 'counts_not', was: ['MV'], now: [] }] }],
      },
      'POST /types/versions/2/restore': SCHEME,
    })
    await userEvent.click(await screen.findByRole('button', { name: 'all versions' }))
    const window = await screen.findByRole('dialog')
    expect(await within(window).findByText('TUG merged into VES')).toBeInTheDocument()
    expect(await within(window).findByText('counts not: MV → –')).toBeInTheDocument()
    expect(within(window).getByText('apart → nested')).toBeInTheDocument()
    await userEvent.click(within(window).getByRole('button', { name: 'restore version 2' }))
    await waitFor(() => expect(written(asked)).toEqual([{ what: 'POST /types/versions/2/restore', body: { scheme: 3 } }]))
  })

  it('shows both versions when somebody else was quicker, and saves over what was seen alone', async () => {
    const stale = new Refusal(409, {
      type: 'urn:urdaten:stale-write', detail: 'changed',
      theirs: { ...VES, name: 'ship', version: 5 }, yours: { ...VES, name: 'boat', version: 1 },
    })
    const { asked } = openPlace(<Types />, 'types/1', { 'PUT /types/1': (wish: { version: number }) => (wish.version === 1 ? stale : VES) })
    await userEvent.click(await screen.findByRole('button', { name: 'edit' }))
    const window = await screen.findByRole('dialog')
    await userEvent.clear(within(window).getByLabelText('name'))
    await userEvent.type(within(window).getByLabelText('name'), 'boat')
    await userEvent.click(within(window).getByRole('button', { name: 'save' }))
    const row = await within(window).findByRole('row', { name: /^name/ })
    expect(row).toHaveTextContent('nameshipboat')
    expect(within(window).getByLabelText('name')).toHaveValue('boat')
    await userEvent.click(within(window).getByRole('button', { name: 'save mine instead' }))
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    expect(written(asked).map(({ body }) => (body as { version: number }).version)).toEqual([1, 5])
  })

  it('says what belongs into an empty scheme', async () => {
    openPlace(<Types />, 'types', { 'GET /types': { ...SCHEME, types: [] } })
    expect(await screen.findByText(/There is none\s+yet/)).toBeInTheDocument()
    expect(screen.getAllByRole('button', { name: 'new type' })).toHaveLength(2)
  })

  it('offers an annotator no acts', async () => {
    openPlace(<Types />, 'types/1', {}, ANNOTATOR)
    await screen.findByText('A ship by its name.')
    expect(screen.queryByRole('button', { name: /new type|edit|merge|retire/ })).toBeNull()
    await userEvent.keyboard('n')
    expect(screen.queryByRole('dialog')).toBeNull()
  })

  it('says when the server does not answer as it should, and tries again', async () => {
    let broken = true
    const answer = () => (broken ? new Refusal(500, { detail: 'Something unforeseen went wrong.' }) : SCHEME)
    openPlace(<Types />, 'types/1', { 'GET /types': answer })
    expect(await screen.findByText('Something unforeseen went wrong.')).toBeInTheDocument()
    broken = false
    await userEvent.click(screen.getByRole('button', { name: 'retry' }))
    expect(await screen.findByText('A ship by its name.')).toBeInTheDocument()
  })
})
