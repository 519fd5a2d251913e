import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import type { IntakeShown, LookedShown, PlanShown } from '../../api/schema'
import { ANNOTATOR, openPlace, Refusal } from '../../test/fake'
import { Imports } from './Imports'
import { settingsFor, workOf } from './plan'
import { chosen } from './sending'

const PLAN: PlanShown = {
  kind: '', encoding: '', per: 'file', whole_page: false, without_quoted: false, delimiter: '', header: null, roles: {}, day_first: true,
  split: 'none', group: '', group_by: '', near: 'keep', labels: {}, spans: 'begun', layer: '', annotate_quoted: false,
}
const LOOKED: LookedShown = {
  texts: 2, refused: 1, same: 0, twice: 0, near: 0, signs: 40, notes: 0, holds: true, kinds: { csv: 1 }, left_out: {}, labels: [], alike: [], unknown: [],
  columns: [
    { name: 'Remark', role: 'body', values: ['Ketta sails.'] },
    { name: 'Desk', role: 'meta', values: ['night log'] },
  ],
  files: [{ name: 'a.csv', kind: 'csv', texts: 2, refused: 1, encoding: 'utf-8', guessed: false, readings: [], delimiter: ';', header: true, columns: [] }],
  sample: [
    {
      title: 'Ketta sails.', group: '', dated: '2026-07-06', split: 'none', body: 'Ketta sails.\n> Does she?', cut: false, meta: { Desk: 'night log' },
      source: 'a.csv', place: 'line 2', aside: [{ start: 13, end: 24 }], spans: [{ start: 0, end: 5, type: 'VES' }], note: '',
    },
  ],
  refusals: [{ source: 'a.csv', place: 'line 3', why: 'There is no text in it.', content: '7' }],
}
const WORK = { id: 9, kind: 'look into files', state: 'done' as const, done: 1, total: 1, unit: '', message: '' }
const ONE: IntakeShown = {
  id: 4, state: 'open', files: 1, size: 2000, created_at: '2026-08-01T08:00:00Z', report: null, plan: PLAN, looked: LOOKED,
  work: WORK,
}
const ANSWERS = { 'GET /imports': [ONE], 'GET /imports/4': ONE, 'GET /imports/plans': [] }

/** A request that is answered as soon as it is sent. */
class QuickRequest {
  static sent: { url: string; body: unknown }[] = []
  static status = 201
  status = 0
  response: unknown = null
  responseType = ''
  upload: { onprogress?: (event: { loaded: number }) => void } = {}
  onload?: () => void
  private url = ''
  open(_method: string, url: string) {
    this.url = url
  }
  setRequestHeader() {}
  abort() {}
  send(body: unknown) {
    QuickRequest.sent.push({ url: this.url, body })
    this.upload.onprogress?.({ loaded: 1 })
    Object.assign(this, { status: QuickRequest.status, response: { detail: 'The file is too large.' } })
    queueMicrotask(() => this.onload?.())
  }
}

describe('Imports', () => {
  beforeEach(() => {
    QuickRequest.sent = []
    QuickRequest.status = 201
    vi.stubGlobal('XMLHttpRequest', QuickRequest)
  })
  afterEach(() => vi.unstubAllGlobals())

  it('shows what was found before anything is kept', async () => {
    openPlace(<Imports />, 'imports/4', ANSWERS)
    expect(await screen.findByRole('button', { name: 'import 2 texts' })).toBeEnabled()
    expect(screen.getByText(/2 texts to import, 40 characters · 1 refused/)).toBeInTheDocument()
    expect(screen.getByRole('table', { name: 'files' })).toHaveTextContent('table, utf-8, semicolon')
    expect(screen.getByRole('table', { name: 'refused' })).toHaveTextContent('There is no text in it.')
    const sample = screen.getByRole('region', { name: 'begin of Ketta sails.' })
    expect(sample).toHaveTextContent('Ketta sails. > Does she?')
    expect(screen.getByTitle('quoted, or a signature')).toHaveTextContent('> Does she?')
    expect(screen.getByText('VES').parentElement).toHaveTextContent('VES Ketta')
    // Only what says anything about these files can be set.
    expect(screen.queryByLabelText(/all that a page shows/)).toBeNull()
    expect(screen.getByLabelText('3/4/2026 is')).toBeInTheDocument()
  })

  it('looks into the files again when the plan is changed', async () => {
    const looking: IntakeShown = { ...ONE, looked: { ...LOOKED, holds: false }, work: { ...WORK, state: 'running' } }
    const { asked } = openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'PUT /imports/4/plan': looking, 'POST /imports/4/look': looking, 'GET /imports/4': ONE })
    await userEvent.selectOptions(await screen.findByLabelText('what Desk is for'), 'group')
    await waitFor(() => expect(asked.map(({ what }) => what)).toContain('POST /imports/4/look'))
    expect(asked.find(({ what }) => what.startsWith('PUT'))?.body).toEqual({ ...PLAN, roles: { Desk: 'group' } })
  })

  it('takes the name of a group when one leaves the field, not with each letter', async () => {
    const { asked } = openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'PUT /imports/4/plan': ONE, 'POST /imports/4/look': ONE })
    const puts = () => asked.filter(({ what }) => what.startsWith('PUT')).map(({ body }) => (body as PlanShown).group)
    const field = await screen.findByLabelText('name of the group')
    await userEvent.type(field, 'week 28')
    expect(puts()).toEqual([])
    await userEvent.tab()
    await waitFor(() => expect(puts()).toEqual(['week 28']))
    await userEvent.selectOptions(screen.getByLabelText('read as'), 'JSON Lines')
    await waitFor(() => expect(asked.filter(({ what }) => what.startsWith('PUT')).at(-1)?.body).toMatchObject({ kind: 'jsonl' }))
  })

  it('says that and where it was stopped', async () => {
    const stopped: IntakeShown = { ...ONE, work: { ...WORK, kind: 'fetch pages', state: 'stopped', message: 'Stopped after 12 pages.' } }
    openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'GET /imports/4': stopped })
    expect(await screen.findByText('Stopped after 12 pages.')).toBeInTheDocument()
  })

  it('offers what becomes of what mails quote', async () => {
    const mail: IntakeShown = { ...ONE, looked: { ...LOOKED, kinds: { eml: 2 } } }
    const { asked } = openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'GET /imports/4': mail, 'PUT /imports/4/plan': mail, 'POST /imports/4/look': mail })
    const choice = await screen.findByLabelText('quoted words and signatures')
    expect(choice).toHaveValue('kept')
    await userEvent.selectOptions(choice, 'annotated')
    await waitFor(() => expect(asked.find(({ what }) => what.startsWith('PUT'))?.body).toMatchObject({ without_quoted: false, annotate_quoted: true }))
  })

  it('sends chosen files into a new import, and has them looked into when all are there', async () => {
    const { asked, router } = openPlace(<Imports />, 'imports', { ...ANSWERS, 'POST /imports': ONE, 'POST /imports/4/look': ONE })
    const files = [new File(['b'], 'b.txt'), new File(['a'], 'a.txt'), new File(['x'], '.hidden')]
    await userEvent.upload(await screen.findByLabelText('files to import'), files)
    await waitFor(() => expect(asked.map(({ what }) => what)).toContain('POST /imports/4/look'))
    expect(QuickRequest.sent.map(({ url }) => url.split('name=')[1])).toEqual(['a.txt', 'b.txt'])
    expect(router.state.location.pathname).toBe('/p/tessmar/texts/imports/4')
  })

  it('says why a file is not taken', async () => {
    QuickRequest.status = 413
    const { asked } = openPlace(<Imports />, 'imports/4', ANSWERS)
    await screen.findByRole('button', { name: 'import 2 texts' })
    await userEvent.upload(screen.getByLabelText('files to import'), [new File(['a'], 'a.txt')])
    expect(await screen.findByText('The file is too large.')).toBeInTheDocument()
    expect(asked.map(({ what }) => what)).not.toContain('POST /imports/4/look')
  })

  it('takes what is pasted for a file', async () => {
    openPlace(<Imports />, 'imports', { ...ANSWERS, 'POST /imports': ONE, 'POST /imports/4/look': ONE })
    await userEvent.click(await screen.findByRole('button', { name: 'paste text or a table instead' }))
    await userEvent.click(screen.getByRole('button', { name: 'look into it' }))
    expect(await screen.findByText('Nothing has been pasted yet.')).toBeInTheDocument()
    await userEvent.selectOptions(screen.getByLabelText('what it is'), 'csv')
    await userEvent.type(screen.getByLabelText('words'), 'a,b')
    await userEvent.click(screen.getByRole('button', { name: 'look into it' }))
    await waitFor(() => expect(QuickRequest.sent[0]?.url).toMatch(/name=pasted.csv$/))
  })

  it('fetches a web site into a new import, and keeps what was typed when the address is refused', async () => {
    let refuse = true
    const { asked, router } = openPlace(<Imports />, 'imports', {
      ...ANSWERS,
      'POST /imports': ONE,
      'POST /imports/4/site': () => (refuse ? new Refusal(422, { field: 'start', detail: 'An address begins with http:// or https://.' }) : ONE),
    })
    await userEvent.click(await screen.findByRole('button', { name: 'fetch a web site' }))
    await userEvent.type(screen.getByLabelText('address'), 'port.invalid')
    await userEvent.click(screen.getByRole('button', { name: 'fetch' }))
    expect(await screen.findByText(/An address begins with/)).toBeInTheDocument()
    refuse = false
    await userEvent.click(screen.getByRole('button', { name: 'fetch' }))
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/texts/imports/4'))
    expect(asked.filter(({ what }) => what === 'POST /imports')).toHaveLength(1)
    expect(asked.findLast(({ what }) => what.endsWith('/site'))?.body).toMatchObject({ start: 'port.invalid', depth: 3, pages: 200 })
  })

  it('tells what came of it, and where the refused ones are', async () => {
    const report = { texts: 2, sentences: 5, spans: 3, signed: 1, same: 1, twice: 0, refused: 2, left_out: { 'of types that are not here': 4 } }
    openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'GET /imports/4': { ...ONE, state: 'kept', report } })
    expect(await screen.findByRole('heading', { name: '2 texts imported' })).toBeInTheDocument()
    expect(screen.getByText('4 spans left out of types that are not here')).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'what and why, as a table' })).toHaveAttribute('href', '/api/projects/tessmar/imports/4/refusals')
  })

  const carried = { texts: 1, signed: 2, begun: 1, spans: 3, left: 2, stayed: 1 }

  it('tells what would come over from versions that are here', async () => {
    openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'GET /imports/4': { ...ONE, looked: { ...LOOKED, carried } } })
    expect(await screen.findByText('2 sentences with the same words are signed as before')).toBeInTheDocument()
    expect(screen.getByText('1 text is a new version of what is here, in the same group and split')).toBeInTheDocument()
    expect(screen.getByText('2 signed sentences do not come over as they were, and stay in the version before')).toBeInTheDocument()
    expect(screen.getByText('1 text from these sources did not come again and stays as it is')).toBeInTheDocument()
  })

  it('leads to what did not come over', async () => {
    const remains = [
      { sentence: 7, now: 70, title: 'log', words: 'Mira waits.', why: 'changed' as const, lost: ['Mira'] },
      { sentence: 8, now: null, title: 'log', words: 'She left.', why: 'gone' as const, lost: [] },
    ]
    const report = { texts: 1, sentences: 4, spans: 0, signed: 0, same: 0, twice: 0, refused: 0, left_out: {}, carried: { ...carried, left: 5, remains } }
    openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'GET /imports/4': { ...ONE, state: 'kept', looked: null, work: null, report } })
    expect(await screen.findByText('To look at: the first 2 of 5')).toBeInTheDocument()
    expect(screen.getByText('1 changed sentence is begun with the spans that are found again')).toBeInTheDocument()
    expect(screen.getByText('not found again: “Mira”')).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'new' })).toHaveAttribute('href', '/p/tessmar/desk/70')
    expect(screen.getAllByRole('link', { name: 'before' }).map((link) => link.getAttribute('href'))).toEqual(['/p/tessmar/desk/7', '/p/tessmar/desk/8'])
    expect(screen.getByText('is not there any more')).toBeInTheDocument()
  })

  it('shows why it failed, and lets one look again', async () => {
    const failed: IntakeShown = { ...ONE, looked: null, work: { ...WORK, state: 'failed', message: '“ship” stands for SHP, and the scheme has no such type.' } }
    const { asked } = openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'GET /imports/4': failed, 'POST /imports/4/look': failed })
    expect(await screen.findByRole('alert')).toHaveTextContent('no such type')
    expect(screen.getByRole('button', { name: 'import' })).toBeDisabled()
    await userEvent.click(screen.getByRole('button', { name: 'look into them' }))
    await waitFor(() => expect(asked.at(-1)?.what).toContain('/imports/4'))
  })

  it('imports by a key, also from a field', async () => {
    const { asked } = openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'POST /imports/4/keep': { ...ONE, work: { ...WORK, kind: 'import', state: 'running' } } })
    const field = await screen.findByLabelText('split')
    field.focus()
    await userEvent.keyboard('{Control>}{Enter}{/Control}')
    await waitFor(() => expect(asked.map(({ what }) => what)).toContain('POST /imports/4/keep'))
  })

  it('maps labels of a corpus to types', async () => {
    const looked: LookedShown = { ...LOOKED, labels: [{ label: 'ship', spans: 12, code: '' }], left_out: { 'of types that are not here': 12 } }
    const { asked } = openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'GET /imports/4': { ...ONE, looked }, 'PUT /imports/4/plan': ONE, 'POST /imports/4/look': ONE })
    expect(await screen.findByText('12 spans are left out of types that are not here.')).toBeInTheDocument()
    await screen.findByRole('option', { name: 'VES vessel' })
    await userEvent.selectOptions(screen.getByLabelText('type of ship'), 'VES')
    await waitFor(() => expect(asked.find(({ what }) => what.startsWith('PUT'))?.body).toEqual({ ...PLAN, labels: { ship: 'VES' } }))
  })

  it('adds types for labels that have none, one or all of them', async () => {
    const labels = [{ label: 'ship', spans: 12, code: '' }, { label: 'rock', spans: 3, code: '' }, { label: 'PRT', spans: 3, code: 'PRT' }]
    const { asked } = openPlace(<Imports />, 'imports/4', {
      ...ANSWERS,
      'GET /imports/4': { ...ONE, looked: { ...LOOKED, labels } },
      'POST /imports/4/types': ONE,
      'POST /imports/4/look': ONE,
    })
    const added = () => asked.filter(({ what }) => what === 'POST /imports/4/types').map(({ body }) => body)
    await userEvent.selectOptions(await screen.findByLabelText('type of ship'), 'a new type')
    await waitFor(() => expect(added()).toEqual([{ labels: ['ship'] }]))
    await waitFor(() => expect(asked.map(({ what }) => what)).toContain('POST /imports/4/look'))
    await userEvent.click(screen.getByRole('button', { name: 'add types for the 2 labels without one' }))
    await waitFor(() => expect(added()).toEqual([{ labels: ['ship'] }, { labels: ['ship', 'rock'] }]))
  })

  it('keeps a plan under a name and says what is wrong with the name', async () => {
    openPlace(<Imports />, 'imports/4', { ...ANSWERS, 'PUT /imports/plans': new Refusal(422, { field: 'name', detail: 'A plan needs a name.' }) })
    await userEvent.click(await screen.findByRole('button', { name: 'save this plan' }))
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    expect(await screen.findByText('A plan needs a name.')).toBeInTheDocument()
  })

  it('is for leads', async () => {
    const { asked } = openPlace(<Imports />, 'imports/4', ANSWERS, ANNOTATOR)
    expect(await screen.findByText('Texts are imported by the lead of the project.')).toBeInTheDocument()
    expect(asked.map(({ what }) => what).filter((what) => what.includes('imports'))).toEqual([])
  })
})

describe('plans', () => {
  it('names work that goes on', () => {
    expect(workOf(ONE)).toBeNull()
    expect(workOf({ ...ONE, work: { ...WORK, state: 'waiting' } })).toBe('looking')
    expect(workOf({ ...ONE, work: { ...WORK, kind: 'import', state: 'running' } })).toBe('keeping')
    expect(workOf({ ...ONE, work: null })).toBeNull()
  })
  it('offers what says anything about the kinds that were found', () => {
    expect(settingsFor({ ...LOOKED, kinds: { eml: 2, html: 1 } })).toMatchObject({ mail: true, page: true, table: false, per: false })
    expect(settingsFor(null)).toMatchObject({ mail: false, table: false, corpus: false })
  })
})

describe('chosen files', () => {
  it('go by their way within the folder, in order, without hidden ones', () => {
    const within = (path: string) => Object.defineProperty(new File(['x'], path.replace(/.*\//, '')), 'webkitRelativePath', { value: path })
    expect(chosen([within('in/b.txt'), within('in/a.txt'), within('in/.git/c')]).map(({ name }) => name)).toEqual(['in/a.txt', 'in/b.txt'])
  })
})
