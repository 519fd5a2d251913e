import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { AnnotationShown, AtOnceWish, DeskSentenceShown, ProposalPage, QueuePage, ReadingPage, SpanShown, StaveShown } from '../../api/schema'
import { type Answers, openPlace, Refusal, written } from '../../test/fake'
import { DeskInFrame, freshDesk, stored } from './fixture'
import { useOutbox } from './outbox'

const TEXT = 'Pellin is in'
const tokens = [[0, 6], [7, 9], [10, 12]].map(([start = 0, end = 0]) => ({ start, end }))
const vessel = (start: number, end: number): SpanShown => ({ start, end, type: 'VES', source: '', why: '', maker: '', probability: null })
const NOTHING: AnnotationShown = { state: 'untouched', version: 0, spans: [], turned_down: [], question: '', answer: '' }

const item = (id: number) => ({ id, text_id: 1, title: '33/1', split: 'train', number: id - 1, of: 3, words: TEXT, state: 'untouched', spans: 0, asked: false, worth: null })
const queue = (...ids: number[]): QueuePage => ({ items: ids.map(item), previous: null, next: null, moment: 4 })

const sentence = (id: number, spans: SpanShown[] = []): DeskSentenceShown => ({
  id, text: { id: 1, title: '33/1', group: 'week-33', split: 'train', source: 'log.csv', place: 'line 7' }, number: id - 1, of: 3, start: 0, end: 12, words: TEXT, tokens,
  before: '', after: '', aside: [], annotation: { ...NOTHING, spans, state: spans.length > 0 ? 'draft' : 'untouched' }, lanes: {}, resolved: [], weighs_from: null, quiet: null,
})

const stave = (id: number, lanes: StaveShown['lanes']): StaveShown => ({
  sentence_id: id, text_id: id < 3 ? 1 : 2, title: id < 3 ? '33/1' : '33/2', number: id - 1, start: 0, end: 12, words: TEXT, tokens, signed: false, lanes, differs: false,
})
const proposal = (id: number) => ({ stave: stave(id, { now: [], then: [vessel(0, 6)] }), version: id, then: [vessel(0, 6)] })
const PROPOSALS: ProposalPage = { total: 2, proposals: [proposal(2), proposal(3)] }

const ANSWERS: Answers = {
  'GET /desk/queue': queue(1, 2, 3),
  'GET /desk/queue/counts': { total: 3, signed: 0, empty: 0, asked: 0, first_open: 1 },
  'GET /desk/queue/ordered': queue(2, 3),
  'GET /desk/queue/changes': { moment: 9, sentences: [{ id: 2, state: 'draft', spans: 1, asked: false }] },
  'GET /desk/rounds': { rounds: [], people: [] },
  'GET /desk/pace': { seconds: null },
  'GET /desk/sentences/1': sentence(1, [vessel(0, 6)]),
  'GET /desk/sentences/2': sentence(2),
  'GET /desk/sentences/3': sentence(3),
  'GET /desk/sentences/1/alike': PROPOSALS,
  'GET /desk/corrections': PROPOSALS,
  'POST /desk/at-once': { sentences: 1 },
}
for (const id of [1, 2, 3]) ANSWERS[`GET /desk/sentences/${id}/elsewhere`] = { as_span: {}, inside: {}, bare: 0, sentences: 0 }

beforeEach(freshDesk)

async function openDesk(answers: Answers = {}) {
  const opened = openPlace(<DeskInFrame />, 'desk/1', { ...ANSWERS, ...answers })
  await screen.findByText(/sentence 1 of 3/)
  return opened
}

const rows = () => within(screen.getByRole('listbox', { name: 'sentences' })).getAllByRole('option')
const atOnce = (asked: Parameters<typeof written>[0]) => written(asked).map(({ body }) => body as AtOnceWish)

describe('marking all alike', () => {
  it('shows every sentence first, and changes those that are still chosen', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('*')
    expect(await screen.findByText('2 of 2 sentences chosen')).toBeInTheDocument()
    const window = screen.getByRole('dialog')
    expect(window).toHaveTextContent('Mark “Pellin” as VES in unsigned sentences')
    await userEvent.click(within(window).getByRole('checkbox', { name: /33\/2/ }))
    await userEvent.click(within(window).getByRole('button', { name: 'change 1 sentence' }))
    expect(await screen.findByText(/Changed in 1 sentence; ctrl and z/)).toBeInTheDocument()
    expect(atOnce(asked)).toEqual([
      {
        kind: 'mark alike',
        places: [{ sentence_id: 2, version: 2, spans: [{ start: 0, end: 6, type: 'VES' }] }],
        looked_through: false,
        token: expect.any(String) as string,
      },
    ])
    expect(screen.queryByRole('dialog')).not.toBeInTheDocument()
    // The queue has caught up with what the act touched.
    await waitFor(() => expect(within(rows()[1] as HTMLElement).getByRole('img')).toHaveAccessibleName('begun, not signed'))
  })

  it('chooses place by place where a sentence has several', async () => {
    const two = [vessel(0, 6), vessel(10, 12)]
    const twice = { ...proposal(2), stave: stave(2, { now: [], then: two }), then: two }
    const { asked } = await openDesk({ 'GET /desk/sentences/1/alike': { total: 2, proposals: [twice, proposal(3)] } })
    await userEvent.keyboard('*')
    await userEvent.click(await screen.findByRole('checkbox', { name: '1. Pellin' }))
    expect(screen.getByRole('checkbox', { name: /33\/1/ })).toBePartiallyChecked()
    await userEvent.click(screen.getByRole('checkbox', { name: /33\/2/ }))
    await userEvent.click(screen.getByRole('button', { name: 'change 1 sentence' }))
    await waitFor(() => expect(atOnce(asked)).toHaveLength(1))
    expect(atOnce(asked)[0]?.places).toEqual([{ sentence_id: 2, version: 2, spans: [{ start: 10, end: 12, type: 'VES' }] }])
  })

  it('waits for the server to be back, with all that was chosen', async () => {
    let away = true
    const { asked } = await openDesk({ 'PUT /desk/sentences/1': (wish: unknown) => (away ? new Refusal(503, { detail: 'Away.' }) : stored(wish)) })
    await userEvent.keyboard('{ArrowRight}v')
    expect(await screen.findByText(/1 act waits here/)).toBeInTheDocument()
    await userEvent.keyboard('*')
    await userEvent.click(await screen.findByRole('button', { name: /^change \d sentences?$/ }))
    expect(await screen.findByRole('alert')).toHaveTextContent('nothing was changed. Try again later')
    expect(asked.filter(({ what }) => what.endsWith('/at-once'))).toEqual([])
    expect(screen.getByText('2 of 2 sentences chosen')).toBeInTheDocument()
    away = false
    await waitFor(() => expect(useOutbox.getState().line).toBe('open'), { timeout: 5000 })
    await userEvent.click(screen.getByRole('button', { name: 'change 2 sentences' }))
    expect(await screen.findByText(/^Changed in 1 sentence/)).toBeInTheDocument()
  })

  it('keeps the choice when the server refuses, and says why', async () => {
    const refusal = new Refusal(409, { detail: '1 of these sentences have been changed since they were shown.' })
    await openDesk({ 'POST /desk/at-once': refusal })
    await userEvent.keyboard('*')
    await userEvent.click(await screen.findByRole('checkbox', { name: /33\/2/ }))
    await userEvent.click(screen.getByRole('button', { name: 'change 1 sentence' }))
    expect(await screen.findByText(/changed since they were shown/)).toBeInTheDocument()
    expect(screen.getByRole('checkbox', { name: /33\/2/ })).not.toBeChecked()
  })

  it('wants a span to be like, and changes nothing when nothing is chosen', async () => {
    await openDesk()
    await userEvent.keyboard('{End}*')
    expect(screen.getByText(/Mark the words here first/)).toBeInTheDocument()
    await userEvent.keyboard('{Home}*')
    await userEvent.click(await screen.findByRole('button', { name: 'choose none' }))
    expect(screen.getByRole('button', { name: 'change 0 sentences' })).toBeDisabled()
  })

  it('says when no sentence is like this one', async () => {
    await openDesk({ 'GET /desk/sentences/1/alike': { total: 0, proposals: [] } })
    await userEvent.click(await screen.findByRole('button', { name: 'mark all like this in unsigned sentences' }))
    expect(await screen.findByText(/No other unsigned sentence has these words/)).toBeInTheDocument()
  })
})

describe('searching', () => {
  const search = async () => {
    await userEvent.keyboard('#')
    await userEvent.selectOptions(await screen.findByLabelText('type'), 'VES')
    await userEvent.type(screen.getByLabelText('text of the span'), 'Pellin')
    await userEvent.click(screen.getByRole('button', { name: 'search' }))
  }

  it('lists what is found, goes to the first of it, and shows all again', async () => {
    const { asked, router } = await openDesk()
    await search()
    expect(await screen.findByText('Found: vessel “Pellin” in gold')).toBeInTheDocument()
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/2'))
    expect(rows()).toHaveLength(2)
    const sent = asked.findLast(({ what }) => what.endsWith('/ordered'))?.body
    expect(sent).toMatchObject({ type: 'VES', named: 'Pellin', by: 'reading' })
    await userEvent.click(screen.getByRole('button', { name: 'show all' }))
    await waitFor(() => expect(rows()).toHaveLength(3))
  })

  it('says at its field what cannot be searched, and that nothing was found, with all that was typed kept', async () => {
    let answer: unknown = new Refusal(422, { detail: 'A probability lies between 0 and 1.', field: 'least' })
    await openDesk({ 'GET /desk/queue/ordered': () => answer })
    await search()
    expect(await screen.findByText('A probability lies between 0 and 1.')).toBeInTheDocument()
    answer = queue()
    await userEvent.click(screen.getByRole('button', { name: 'search' }))
    expect(await screen.findByText('No sentence matches the search.')).toBeInTheDocument()
    expect(screen.getByLabelText('text of the span')).toHaveValue('Pellin')
  })

  it('corrects what it found after a look at every sentence', async () => {
    const { asked } = await openDesk()
    await search()
    await userEvent.click(await screen.findByRole('button', { name: 'correct them' }))
    await userEvent.selectOptions(await screen.findByLabelText('change to'), 'PRT')
    await userEvent.click(screen.getByRole('button', { name: 'show what would change' }))
    await userEvent.click(await screen.findByRole('button', { name: 'change 2 sentences' }))
    await waitFor(() => expect(atOnce(asked)).toHaveLength(1))
    expect(atOnce(asked)[0]?.kind).toBe('correct')
    expect(asked.find(({ what }) => what.endsWith('/corrections'))?.body).toEqual({ type: 'VES', named: 'Pellin', split: '', code: 'PRT' })
  })
})

describe('undo of many', () => {
  it('says how many sentences were taken back and how many left alone', async () => {
    const travelled = { sentence_id: 1, annotation: NOTHING, sentences: 5, left: 1 }
    await openDesk({ 'POST /desk/undo': travelled })
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(await screen.findByText('Undone in 5 sentences; 1 sentence left alone, because they were changed since.')).toBeInTheDocument()
  })

  it('says when nothing could be taken back', async () => {
    const { router } = await openDesk({ 'POST /desk/undo': { sentence_id: 2, annotation: NOTHING, sentences: 0, left: 1 } })
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(await screen.findByText('This has been changed since and stays as it is; the next undo passes over it.')).toBeInTheDocument()
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/2')
  })
})

describe('reading', () => {
  const page: ReadingPage = {
    group: 'week-33',
    next: null,
    sentences: [1, 2, 3].map((id) => ({ stave: stave(id, { gold: id === 1 ? [vessel(0, 6)] : [] }), state: 'untouched', before: id === 2 ? '> Is Ketta in?' : '', after: '' })),
  }

  it('reads the text and what follows in its group, and opens a sentence from there', async () => {
    const { router, asked } = await openDesk({ 'GET /desk/reading': page })
    await userEvent.keyboard('=')
    const text = await screen.findByRole('listbox', { name: 'the text' })
    expect(await within(text).findAllByRole('option')).toHaveLength(3)
    expect(within(text).getByTitle(/not annotated/)).toHaveTextContent('> Is Ketta in?')
    expect(within(text).getAllByRole('heading').map((h) => h.textContent)).toEqual(['33/1', '33/2'])
    expect(screen.getByText('Here week-33 ends.')).toBeInTheDocument()
    expect(asked.find(({ what }) => what.endsWith('/reading'))?.body).toEqual({ text: '1', number: '0' })
    await userEvent.keyboard('{ArrowDown}{ArrowDown}{Enter}')
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/3'))
    expect(screen.queryByRole('listbox', { name: 'the text' })).not.toBeInTheDocument()
  })

  it('goes back to the sentence', async () => {
    const { router } = await openDesk({ 'GET /desk/reading': page })
    await userEvent.click(screen.getByRole('button', { name: 'read the text' }))
    await screen.findByRole('listbox', { name: 'the text' })
    await userEvent.keyboard('{Escape}')
    expect(await screen.findByText(/sentence 1 of 3/)).toBeInTheDocument()
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/1')
  })
})

describe('taking over a layer', () => {
  const LAYERS = [{ id: 1, kind: 'gold', name: 'gold' }, { id: 2, kind: 'imported', name: 'old marks' }, { id: 3, kind: 'proposed', name: 'from lists' }]
  const open = async (answers: Answers) => {
    const opened = await openDesk(answers)
    await userEvent.click(screen.getByRole('button', { name: 'take over a layer' }))
    return { ...opened, dialog: await screen.findByRole('dialog') }
  }

  it('shows what a layer has to add, and takes what is still chosen', async () => {
    const { asked, dialog } = await open({ 'GET /desk/layers': LAYERS, 'GET /desk/layers/3/proposals': PROPOSALS })
    expect(await within(dialog).findByLabelText('layer')).toHaveDisplayValue('from lists, proposed')
    await userEvent.click(within(dialog).getByRole('button', { name: 'show what would change' }))
    expect(await screen.findByText('2 of 2 sentences chosen')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'change 2 sentences' }))
    await waitFor(() => expect(atOnce(asked)).toMatchObject([{ kind: 'take over', places: [{ sentence_id: 2 }, { sentence_id: 3 }] }]))
  })

  it('deletes what was proposed, and nothing else', async () => {
    let layers = LAYERS
    const remove = () => {
      layers = LAYERS.slice(0, 2)
    }
    const { asked, dialog } = await open({ 'GET /desk/layers': () => layers, 'DELETE /desk/layers/3': remove })
    await userEvent.click(await within(dialog).findByRole('button', { name: 'delete the layer' }))
    await waitFor(() => expect(written(asked).map(({ what }) => what)).toEqual(['DELETE /desk/layers/3']))
    await userEvent.selectOptions(await within(dialog).findByLabelText('layer'), 'old marks')
    expect(within(dialog).queryByRole('button', { name: 'delete the layer' })).toBeNull()
  })

  it('says where layers come from when there is none', async () => {
    const { dialog } = await open({ 'GET /desk/layers': LAYERS.slice(0, 1) })
    expect(await within(dialog).findByText(/There is no layer beside gold/)).toBeInTheDocument()
  })
})
