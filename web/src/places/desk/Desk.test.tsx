import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { AnnotationShown, ChangeWish, DeskSentenceShown, QueuePage, SpanShown, WhyShown } from '../../api/schema'
import { openPlace, Refusal, SCHEME, written } from '../../test/fake'
import { Desk } from './Desk'
import { useOutbox } from './outbox'
import { useDeskSettings } from './settings'

const WORDS = ['Pellin', 'is', 'in', 'from', 'Varnby']
const TEXT = WORDS.join(' ')
const tokens = WORDS.map((word, i) => {
  const start = WORDS.slice(0, i).join(' ').length + (i > 0 ? 1 : 0)
  return { start, end: start + word.length }
})
const span = (start: number, end: number, type: string, more: Partial<SpanShown> = {}): SpanShown => ({
  start, end, type, source: '', why: '', maker: '', probability: null, ...more,
})
const PELLIN = span(0, 6, 'VES', { source: 'lists', why: 'list vessels, entry “Pellin”' })
const VARNBY = span(18, 24, 'PRT', { source: 'tagger', probability: 0.9 })

const QUEUE: QueuePage = {
  items: [1, 2].map((id) => ({ id, text_id: 1, title: '33/1', split: 'train', number: id - 1, words: TEXT, state: 'untouched', spans: 0, asked: false, worth: null })),
  next: null,
  total: 2,
  signed: 0,
  empty: 0,
  asked: 0,
  act: 0,
  first_open: 1,
}

const NOTHING: AnnotationShown = { state: 'untouched', version: 0, spans: [], turned_down: [], question: '', answer: '' }

function sentence(id: number, annotation: Partial<AnnotationShown> = {}, more: Partial<DeskSentenceShown> = {}): DeskSentenceShown {
  return {
    id, text: { id: 1, title: '33/1', group: 'week-33', split: 'train' }, number: id - 1, of: 2,
    start: 0, end: TEXT.length, words: TEXT, tokens, before: '', after: ' Nothing further.',
    annotation: { ...NOTHING, ...annotation },
    lanes: { lists: [PELLIN], rules: [], tagger: [VARNBY] }, resolved: [PELLIN, VARNBY], quiet: null, ...more,
  }
}

const stored = (wish: unknown): AnnotationShown => {
  const { state, version, spans, turned_down, question, answer } = wish as ChangeWish
  const shown = (listed: ChangeWish['spans']) => listed.map((s) => span(s.start, s.end, s.type))
  return { state, version: version + 1, spans: shown(spans), turned_down: shown(turned_down), question, answer }
}

const ANSWERS = {
  'GET /desk/queue': QUEUE,
  'GET /desk/pace': { seconds: null },
  'GET /desk/sentences/1/elsewhere': { as_span: {}, inside: {}, bare: 0, sentences: 0 },
  'GET /desk/sentences/2/elsewhere': { as_span: {}, inside: {}, bare: 0, sentences: 0 },
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
  useDeskSettings.setState({ hidden: ['together'], lastType: null })
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
    await waitFor(() => expect(within(screen.getByRole('listbox')).getAllByRole('option')).toHaveLength(2))
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
    await userEvent.keyboard(' ')
    expect(gold()).toEqual(['VES'])
    expect(screen.getByRole('complementary')).toHaveTextContent('Varnby')
    await userEvent.keyboard(' ')
    expect(gold()).toEqual(['VES', 'PRT'])
    await userEvent.keyboard('{Home}{Backspace}{End}.')
    expect(screen.getByRole('complementary')).toHaveTextContent('Pellin')
    await userEvent.keyboard(' ')
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

  it('marks the last type again with one key, and changes the type of the whole span under the cursor', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard(',')
    expect(screen.getByText(/No type has been marked yet/)).toBeInTheDocument()
    await userEvent.keyboard('{Shift>}{ArrowRight}{/Shift}v{End},{Home}p')
    await waitFor(() =>
      expect(acts(asked)).toEqual([
        ['PUT /desk/sentences/1', 'mark', 'draft', 0, 'VES'],
        ['PUT /desk/sentences/1', 'mark', 'draft', 1, 'VES VES'],
        ['PUT /desk/sentences/1', 'change', 'draft', 2, 'PRT VES'],
      ]),
    )
    expect((written(asked)[2]?.body as ChangeWish).spans[0]).toEqual({ start: 0, end: 9, type: 'PRT' })
  })

  it('moves both bounds of a span, splits it and joins it again', async () => {
    const { asked } = await openDesk()
    const spans = () => (written(asked).at(-1)?.body as ChangeWish).spans.map((s) => [s.start, s.end])
    await userEvent.keyboard('v')
    for (const [keys, expected] of [
      ['{Alt>}{ArrowRight}{ArrowRight}{/Alt}', [[0, 12]]],
      ['{Alt>}{ArrowLeft}{Shift>}{ArrowRight}{/Shift}{/Alt}', [[7, 9]]],
      ['{Alt>}{Shift>}{ArrowLeft}{/Shift}{/Alt}', [[0, 9]]],
      ['{Home}{ArrowRight}/', [[0, 6], [7, 9]]],
      ['{Home}+', [[0, 9]]],
    ] as const) {
      await userEvent.keyboard(keys)
      await waitFor(() => expect(spans()).toEqual(expected))
    }
    const before = written(asked).length
    await userEvent.keyboard('{Home}/+{Alt>}{Shift>}{ArrowLeft}{/Shift}{/Alt}')
    expect(screen.getByText(/A span is split before the word/)).toBeInTheDocument()
    expect(screen.getByText(/no span after/)).toBeInTheDocument()
    expect(screen.getByText(/can go no further/)).toBeInTheDocument()
    expect(written(asked)).toHaveLength(before)
  })

  it('marks a part of a word', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('{Control>}{Shift>}{ArrowLeft}{ArrowLeft}{/Shift}{/Control}v')
    await waitFor(() => expect((written(asked)[0]?.body as ChangeWish).spans).toEqual([{ start: 0, end: 4, type: 'VES' }]))
  })

  it('goes by what looks like a name and by spans and evidence', async () => {
    await openDesk()
    await userEvent.keyboard(')')
    expect(screen.getByRole('complementary')).toHaveTextContent('Varnby')
    await userEvent.keyboard('(')
    expect(screen.getByRole('complementary')).toHaveTextContent('Pellin')
    await userEvent.keyboard('{Control>}{ArrowRight}{/Control}')
    expect(screen.getByText(/Same words elsewhere · Varnby/)).toBeInTheDocument()
  })

  it('lets spans lie within each other where the scheme does', async () => {
    const { asked } = await openDesk({ 'GET /types': { ...SCHEME, overlap: 'nested' } })
    await userEvent.keyboard('{Shift>}{ArrowRight}{/Shift}v{Home}p')
    await waitFor(() => expect(written(asked)).toHaveLength(2))
    const { spans } = written(asked)[1]?.body as ChangeWish
    expect(spans.map((s) => [s.start, s.end, s.type])).toEqual([[0, 6, 'PRT'], [0, 9, 'VES']])
  })

  it('takes all undisputed evidence at once, logged with its sources', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('{Shift>} {/Shift}')
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'take', 'draft', 0, 'VES PRT']]))
    expect((written(asked)[0]?.body as ChangeWish).verdicts).toEqual([
      { start: 0, end: 6, type: 'VES', source: 'lists', maker: '', taken: true },
      { start: 18, end: 24, type: 'PRT', source: 'tagger', maker: '', taken: true },
    ])
    await userEvent.keyboard('{Shift>} {/Shift}')
    expect(screen.getByText('No evidence is left here on which all sources agree.')).toBeInTheDocument()
  })

  it('shows a sentence of a long text before its evidence has been looked up, and takes no act until then', async () => {
    let arrive: (full: DeskSentenceShown) => void = () => undefined
    const full = new Promise<DeskSentenceShown>((resolve) => (arrive = resolve))
    const answer = (sent: unknown) => ((sent as { evidence?: string }).evidence === 'false' ? sentence(1, {}, { lanes: {}, resolved: [], of: 3000 }) : full)
    const { asked } = openPlace(<Desk />, 'desk/1', { ...ANSWERS, 'GET /desk/sentences/1': answer })
    await screen.findByText(/sentence 1 of 3000/)
    expect(screen.getByText('Evidence is being looked up…')).toBeInTheDocument()
    await userEvent.keyboard('v')
    expect(screen.getByText(/still being read/)).toBeInTheDocument()
    arrive(sentence(1))
    expect(await screen.findByRole('group', { name: 'lanes' })).toBeInTheDocument()
    expect(document.querySelectorAll('[data-lane]')).toHaveLength(4)
    await userEvent.keyboard('v')
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'mark', 'draft', 0, 'VES']]))
  })

  it('opens a sentence at its first gap', async () => {
    const signed = { ...NOTHING, state: 'signed', version: 1, spans: [span(0, 6, 'VES')] }
    await openDesk({ 'GET /desk/sentences/1': sentence(1, signed) })
    expect(screen.getByRole('complementary')).toHaveTextContent('Varnby')
  })

  it('takes all undisputed and signs with one key', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('{Shift>}{Enter}{/Shift}')
    await screen.findByText(/sentence 2 of 2/)
    await waitFor(() =>
      expect(acts(asked)).toEqual([
        ['PUT /desk/sentences/1', 'take', 'draft', 0, 'VES PRT'],
        ['PUT /desk/sentences/1', 'sign', 'signed', 1, 'VES PRT'],
      ]),
    )
  })

  it('does not sign with that key where something is left to be looked at', async () => {
    const disputed = sentence(1, {}, { lanes: { lists: [PELLIN], rules: [span(18, 24, 'VES')], tagger: [VARNBY] } })
    const { asked } = await openDesk({ 'GET /desk/sentences/1': disputed })
    await userEvent.keyboard('{Shift>}{Enter}{/Shift}')
    expect(screen.getByText(/look at that before you sign/)).toBeInTheDocument()
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'take', 'draft', 0, 'VES']]))
    expect(screen.getByRole('complementary')).toHaveTextContent('Varnby')
  })

  it('shows what the sources come to where one wants to see it', async () => {
    await openDesk()
    await userEvent.keyboard('{Alt>}5{/Alt}')
    expect([...document.querySelectorAll('[data-lane=together] [data-span]')]).toHaveLength(2)
  })

  it('turns evidence down, which is a gap no more, and offers it again', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('-')
    expect(document.querySelectorAll('[data-differs]')).toHaveLength(1)
    expect(screen.getByRole('complementary')).toHaveTextContent('turned down')
    await waitFor(() => expect(written(asked)).toHaveLength(1))
    const wish = written(asked)[0]?.body as ChangeWish
    expect([wish.kind, wish.state, wish.spans]).toEqual(['turn down', 'draft', []])
    expect(wish.turned_down).toEqual([{ start: 0, end: 6, type: 'VES' }])
    expect(wish.verdicts).toEqual([{ start: 0, end: 6, type: 'VES', source: 'lists', maker: '', taken: false }])
    await userEvent.click(screen.getByRole('button', { name: 'offer again VES from lists' }))
    await waitFor(() => expect((written(asked)[1]?.body as ChangeWish).turned_down).toEqual([]))
    expect(document.querySelectorAll('[data-differs]')).toHaveLength(2)
    await userEvent.keyboard(' {Home}-')
    expect(screen.getByText(/stands in gold; remove it there first/)).toBeInTheDocument()
  })

  it('is begun, not untouched, when all that is left is evidence that was turned down', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('-{ArrowRight}v{Backspace}')
    await waitFor(() => expect(acts(asked).at(-1)).toEqual(['PUT /desk/sentences/1', 'remove', 'draft', 2, '']))
  })

  it('hides lanes one by one and remembers it', async () => {
    await openDesk()
    expect(document.querySelectorAll('[data-lane]')).toHaveLength(4)
    await userEvent.keyboard('{Alt>}1{/Alt}')
    await userEvent.click(screen.getByRole('button', { name: 'rules' }))
    expect([...document.querySelectorAll('[data-lane]')].map((lane) => lane.getAttribute('data-lane'))).toEqual(['gold', 'tagger'])
    expect(localStorage.getItem('urdaten.desk')).toContain('"hidden":["together","lists","rules"]')
    expect(screen.getByRole('button', { name: 'rules' })).toHaveAttribute('aria-pressed', 'false')
    // What is hidden makes no gap, and is not taken.
    expect(document.querySelectorAll('[data-differs]')).toHaveLength(1)
    ;(document.activeElement as HTMLElement).blur()
    await userEvent.keyboard('{Home} ')
    expect(screen.getByText('There is no evidence under the cursor.')).toBeInTheDocument()
  })

  it('asks the lead, who answers', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('!')
    await userEvent.type(await screen.findByRole('textbox', { name: 'question' }), 'Does a tug count?')
    await userEvent.click(screen.getByRole('button', { name: 'ask' }))
    await waitFor(() => expect(written(asked)).toHaveLength(1))
    expect(written(asked)[0]?.body).toMatchObject({ kind: 'ask', state: 'untouched', question: 'Does a tug count?', answer: '' })
    expect(screen.getByText('1 with a question', { exact: false })).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'answer or change' }))
    await userEvent.type(await screen.findByRole('textbox', { name: 'answer' }), 'It does.')
    await userEvent.click(screen.getByRole('button', { name: 'answer' }))
    await waitFor(() => expect(written(asked)).toHaveLength(2))
    expect(written(asked)[1]?.body).toMatchObject({ kind: 'answer', question: 'Does a tug count?', answer: 'It does.' })
    expect(screen.getByText('0 with a question', { exact: false })).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'open' }))
    await userEvent.click(await screen.findByRole('button', { name: 'take the question back' }))
    await waitFor(() => expect(written(asked)[2]?.body).toMatchObject({ kind: 'ask', question: '', answer: '' }))
  })

  it('orders the queue, and anew only when asked to', async () => {
    const ordered = { ...QUEUE, items: [...QUEUE.items].reverse().map((item) => ({ ...item, worth: item.id })) }
    const { asked } = await openDesk({ 'GET /desk/queue/ordered': ordered })
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'order' }), 'disputes')
    const rows = await screen.findAllByText(/\d gaps?/)
    expect(rows.map((row) => row.textContent)).toEqual(['2 gaps', '1 gap'])
    const turns = () => asked.filter(({ what }) => what.endsWith('/ordered')).map(({ body }) => (body as { turn: string }).turn)
    expect(turns()).toHaveLength(1)
    await userEvent.click(screen.getByRole('button', { name: 'order anew' }))
    await waitFor(() => expect(new Set(turns()).size).toBe(2))
  })

  it('tells how the selected words were signed elsewhere and opens those sentences', async () => {
    const told = { as_span: { VES: 11, PRT: 1 }, inside: { VES: 2 }, bare: 1, sentences: 14 }
    const stave = {
      sentence_id: 9, text_id: 3, title: '31/4', number: 2, start: 0, end: TEXT.length, words: TEXT, tokens,
      signed: true, lanes: { gold: [span(0, 6, 'VES')] }, differs: false,
    }
    await openDesk({
      'GET /desk/sentences/1/elsewhere': told,
      'GET /desk/sentences/1/elsewhere/staves': { total: 14, staves: [stave] },
    })
    expect(await screen.findByText('signed as', { exact: false })).toHaveTextContent('signed as VES 11 times, PRT once')
    expect(screen.getByText('as part of', { exact: false })).toHaveTextContent('as part of VES twice')
    expect(screen.getByText('unmarked once')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'read 14 sentences' }))
    expect(await screen.findByRole('dialog')).toHaveTextContent('31/4 · sentence 3')
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
    const undone = { sentence_id: 1, annotation: { ...NOTHING, state: 'draft', version: 4, spans: [span(0, 6, 'VES')] } }
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
    // Bars from the middle, to the right for, to the left against; the largest fills its half.
    const bars = [...reasons.querySelectorAll<HTMLElement>('[data-bar]')].map(({ style }) => [style.left, style.right, style.width])
    expect(bars).toEqual([['50%', '', '50%'], ['', '50%', '6.25%'], ['', '50%', '12.5%']])
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
