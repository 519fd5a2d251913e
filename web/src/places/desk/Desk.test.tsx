import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { AnnotationShown, ChangeWish, DeskSentenceShown, QueuePage, SpanShown, WhyShown } from '../../api/schema'
import { openPlace, Refusal, written } from '../../test/fake'
import { Desk } from './Desk'
import { useOutbox } from './outbox'

const WORDS = ['Pellin', 'is', 'in', 'from', 'Varnby']
const TEXT = WORDS.join(' ')
const tokens = WORDS.map((word, i) => {
  const start = WORDS.slice(0, i).join(' ').length + (i > 0 ? 1 : 0)
  return { start, end: start + word.length }
})
const span = (start: number, end: number, type: string, more: Partial<SpanShown> = {}): SpanShown => ({
  start, end, type, source: '', why: '', probability: null, ...more,
})
const PELLIN = span(0, 6, 'VES', { source: 'lists', why: 'list vessels, entry “Pellin”' })
const VARNBY = span(18, 24, 'PRT', { source: 'tagger', probability: 0.9 })

const QUEUE: QueuePage = {
  items: [1, 2].map((id) => ({ id, text_id: 1, title: '33/1', split: 'train', number: id - 1, words: TEXT, state: 'untouched', spans: 0 })),
  next: null,
  total: 2,
  signed: 0,
  first_open: 1,
}

function sentence(id: number, annotation: Partial<AnnotationShown> = {}, more: Partial<DeskSentenceShown> = {}): DeskSentenceShown {
  return {
    id, text: { id: 1, title: '33/1', group: 'week-33', split: 'train' }, number: id - 1, of: 2,
    start: 0, end: TEXT.length, words: TEXT, tokens, before: '', after: ' Nothing further.',
    annotation: { state: 'untouched', version: 0, spans: [], ...annotation },
    lanes: { lists: [PELLIN], rules: [], tagger: [VARNBY] }, resolved: [PELLIN, VARNBY], quiet: null, ...more,
  }
}

const stored = (wish: unknown): AnnotationShown => {
  const { state, version, spans } = wish as ChangeWish
  return { state, version: version + 1, spans: spans.map((s) => span(s.start, s.end, s.type)) }
}

const ANSWERS = {
  'GET /desk/queue': QUEUE,
  'GET /desk/sentences/1': sentence(1),
  'GET /desk/sentences/2': sentence(2),
  'PUT /desk/sentences/1': stored,
  'PUT /desk/sentences/2': stored,
}

const gold = () => [...document.querySelectorAll('[data-lane="gold"] [data-span]')].map((bar) => bar.textContent)
const acts = (asked: Parameters<typeof written>[0]) =>
  written(asked).map(({ what, body }) => {
    const { kind, state, version, spans } = body as ChangeWish
    return [what, kind, state, version, spans.map((s) => s.type).join(' ')]
  })

beforeEach(() => {
  localStorage.clear()
  useOutbox.setState({ pending: [], holding: false, conflict: null })
})

async function openDesk(answers = {}, path = 'desk/1') {
  const opened = openPlace(<Desk />, path, { ...ANSWERS, ...answers })
  await screen.findByText(/sentence \d of 2/)
  return opened
}

describe('Desk', () => {
  it('opens the first sentence that is not signed', async () => {
    const items = QUEUE.items.map((item) => ({ ...item, state: item.id === 1 ? 'signed' : 'untouched' }))
    const { router } = await openDesk({ 'GET /desk/queue': { ...QUEUE, items } }, 'desk')
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/2')
    expect(screen.getByText('1 of 2 signed')).toBeInTheDocument()
  })

  it('opens the first open sentence of a later page and counts the whole queue', async () => {
    const page = (id: number, state: string, next: number | null) => ({
      ...QUEUE, next, total: 2, signed: 1, first_open: 2, items: QUEUE.items.filter((i) => i.id === id).map((i) => ({ ...i, state })),
    })
    const answer = (sent: unknown) => ((sent as { after?: string }).after === '7' ? page(2, 'untouched', null) : page(1, 'signed', 7))
    const { router } = await openDesk({ 'GET /desk/queue': answer }, 'desk')
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/2')
    expect(await screen.findAllByRole('option', { name: /signed|untouched|Pellin/ })).toHaveLength(2)
    expect(screen.getByText('1 of 2 signed')).toBeInTheDocument()
    expect(screen.getByText('1 sentence left')).toBeInTheDocument()
  })

  it('goes on from a sentence whose place in the queue is still on its way', async () => {
    let arrive: (page: QueuePage) => void = () => undefined
    const later = new Promise<QueuePage>((resolve) => (arrive = resolve))
    const first = { ...QUEUE, items: [], next: 7, signed: 1 }
    const answer = (sent: unknown) => ((sent as { after?: string }).after === '7' ? later : first)
    const { router } = await openDesk({ 'GET /desk/queue': answer, 'GET /desk/sentences/1': sentence(1, { state: 'signed', spans: [VARNBY] }) })
    await userEvent.keyboard('{Enter}')
    expect(router.state.location.pathname).toBe('/p/tessmar/desk/1')
    arrive({ ...QUEUE, items: QUEUE.items.map((item) => ({ ...item, state: item.id === 1 ? 'signed' : 'untouched' })) })
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/2'))
  })

  it('marks by key, again by another key, and signs', async () => {
    const { asked, router } = await openDesk()
    await userEvent.keyboard('v')
    expect(gold()).toEqual(['VES'])
    await userEvent.keyboard('p')
    expect(gold()).toEqual(['PRT'])
    await userEvent.keyboard('{Enter}')
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/2'))
    expect(acts(asked)).toEqual([
      ['PUT /desk/sentences/1', 'mark', 'draft', 0, 'VES'],
      ['PUT /desk/sentences/1', 'mark', 'draft', 1, 'PRT'],
      ['PUT /desk/sentences/1', 'sign', 'signed', 2, 'PRT'],
    ])
  })

  it('widens the selection and marks it whole', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('{End}{Shift>}{ArrowLeft}{/Shift}p')
    await waitFor(() => expect(written(asked)).toHaveLength(1))
    expect((written(asked)[0]?.body as ChangeWish).spans).toEqual([{ start: 13, end: 24, type: 'PRT' }])
  })

  it('takes evidence under the cursor and jumps to where gold and evidence differ', async () => {
    await openDesk()
    expect(document.querySelectorAll('[data-differs]')).toHaveLength(2)
    await userEvent.keyboard(' .')
    expect(gold()).toEqual(['VES'])
    await userEvent.keyboard(' ')
    expect(gold()).toEqual(['VES', 'PRT'])
    expect(document.querySelectorAll('[data-differs]')).toHaveLength(0)
  })

  it('says so where there is nothing to take, to remove or to sign', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('{ArrowRight} ')
    expect(screen.getByText('There is no evidence under the cursor.')).toBeInTheDocument()
    await userEvent.keyboard('{Backspace}')
    expect(screen.getByText('There is no span under the cursor.')).toBeInTheDocument()
    await userEvent.keyboard('{Enter}')
    expect(screen.getByText(/Ctrl and enter sign the sentence as empty/)).toBeInTheDocument()
    expect(written(asked)).toEqual([])
  })

  it('signs as empty on purpose only, and never with spans', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('v{Control>}{Enter}{/Control}')
    expect(screen.getByText(/remove them before you sign it as empty/)).toBeInTheDocument()
    await userEvent.keyboard('{Backspace}{Control>}{Enter}{/Control}')
    await waitFor(() => expect(acts(asked).at(-1)).toEqual(['PUT /desk/sentences/1', 'sign as empty', 'signed', 2, '']))
  })

  it('marks by mouse: drag over words, then a click on the type', async () => {
    const { asked } = await openDesk()
    const words = [...document.querySelectorAll('[data-token]')]
    const at = (i: number) => {
      document.elementFromPoint = () => words[i] ?? null
    }
    at(3)
    fireEvent.pointerDown(words[3] as Element, { button: 0, pointerId: 1 })
    at(4)
    fireEvent.pointerMove(words[4] as Element, { pointerId: 1 })
    fireEvent.pointerUp(words[4] as Element, { pointerId: 1 })
    await userEvent.click(screen.getByRole('button', { name: /PRT.*port/ }))
    await waitFor(() => expect(written(asked)).toHaveLength(1))
    expect((written(asked)[0]?.body as ChangeWish).spans).toEqual([{ start: 13, end: 24, type: 'PRT' }])
  })

  it('undoes across sentences', async () => {
    const undone = { sentence_id: 1, annotation: { state: 'draft', version: 4, spans: [span(0, 6, 'VES')] } }
    const { router } = await openDesk({ 'POST /desk/undo': undone }, 'desk/2')
    await userEvent.keyboard('{Control>}z{/Control}')
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/1'))
  })

  it('says when there is nothing to undo', async () => {
    await openDesk({ 'POST /desk/undo': new Refusal(404, { detail: 'There is nothing to undo.' }) })
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(await screen.findByText('There is nothing to undo.')).toBeInTheDocument()
  })

  it('shows both versions when somebody else wrote first', async () => {
    const refusal = new Refusal(409, {
      type: 'urn:urdaten:stale-write', detail: 'Somebody else changed this.',
      theirs: { state: 'draft', version: 1, spans: [[18, 24, 'PRT']] },
    })
    let first = true
    const answer = (wish: unknown) => {
      const refuse = first
      first = false
      return refuse ? refusal : stored(wish)
    }
    const { asked } = await openDesk({ 'PUT /desk/sentences/1': answer })
    await userEvent.keyboard('v')
    const window = await screen.findByRole('dialog')
    expect(within(window).getByText(/There now: PRT/)).toBeInTheDocument()
    expect(within(window).getByText(/Yours: VES/)).toBeInTheDocument()
    await userEvent.click(within(window).getByRole('button', { name: 'put mine in its place' }))
    await waitFor(() => expect(acts(asked).at(-1)).toEqual(['PUT /desk/sentences/1', 'mark', 'draft', 1, 'VES']))
  })

  it('says which features speak for a span of the tagger', async () => {
    const why: WhyShown = {
      difference: 1.25, runner_up: [span(18, 24, 'VES')], rest: 3, rest_value: -0.5,
      contributions: [
        { feature: 'word=from', word: 'from', offset: -1, value: 2 },
        { feature: 'move from outside to PRT begins', word: '', offset: 0, value: -0.25 },
      ],
    }
    const { asked } = await openDesk({ 'GET /desk/sentences/1/why': why }, 'desk/1?at=18')
    await userEvent.click(screen.getByRole('button', { name: 'why the tagger says so' }))
    const reasons = await screen.findByRole('group', { name: 'why PRT' })
    expect(reasons).toHaveTextContent('Ahead by 1.25 of the best without it: VES “Varnby”.')
    expect(reasons).toHaveTextContent('+2.00word=from the word before “from”')
    expect(reasons).toHaveTextContent('−0.25move from outside to PRT begins')
    expect(reasons).toHaveTextContent('−0.503 smaller ones')
    expect(asked.at(-1)?.body).toEqual({ start: '18', end: '24', type: 'PRT' })
    await userEvent.click(screen.getByRole('button', { name: 'why the tagger says so' }))
    expect(screen.queryByRole('group', { name: 'why PRT' })).toBeNull()
  })

  it('shows what the server says when a span cannot be explained', async () => {
    await openDesk({ 'GET /desk/sentences/1/why': new Refusal(404, { detail: 'No tagger is in use.' }) }, 'desk/1?at=18')
    await userEvent.click(screen.getByRole('button', { name: 'why the tagger says so' }))
    expect(await screen.findByRole('alert')).toHaveTextContent('No tagger is in use.')
  })

  it('shows no evidence on a test text and says why', async () => {
    const quiet = sentence(1, {}, { lanes: {}, resolved: [], quiet: 'Test texts are annotated without suggestions.' })
    await openDesk({ 'GET /desk/sentences/1': quiet })
    expect(screen.getByText('Test texts are annotated without suggestions.')).toBeInTheDocument()
    expect(document.querySelectorAll('[data-lane]')).toHaveLength(1)
    expect(document.querySelectorAll('[data-differs]')).toHaveLength(0)
  })

  it('opens with the cursor on the word that a link names', async () => {
    await openDesk({}, 'desk/1?at=18')
    expect(screen.getByRole('complementary')).toHaveTextContent('Varnby')
  })

  it('takes a signing back', async () => {
    const signed = sentence(1, { state: 'signed', version: 3, spans: [span(0, 6, 'VES')] })
    const { asked } = await openDesk({ 'GET /desk/sentences/1': signed })
    await userEvent.click(screen.getByRole('button', { name: 'take the signing back' }))
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'unsign', 'draft', 3, 'VES']]))
  })
})
