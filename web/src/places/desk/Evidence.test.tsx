import { act, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { DeskSentenceShown, QueueItemShown, WhyShown } from '../../api/schema'
import { openPlace, Refusal, written } from '../../test/fake'
import { acts, ANSWERS, DeskInFrame, found, freshDesk, gold, NOTHING, openDesk, PELLIN, QUEUE, sentence, span, stored, TEXT, tokens, VARNBY, type Sent } from './fixture'

/** A queue that is still on its way, so that nobody knows yet how long a text is. */
const LONG = { 'GET /desk/queue': () => new Promise(() => undefined) }

beforeEach(freshDesk)

describe('evidence', () => {
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

  it('tells readers of screens where the cursor is and what is said there', async () => {
    await openDesk()
    const spoken = () => document.querySelector('[data-spoken]')?.textContent
    await waitFor(() => expect(spoken()).toBe('Pellin: not marked. Lists VES. gold and evidence differ here.'))
    await userEvent.keyboard('v')
    await waitFor(() => expect(spoken()).toBe('Pellin: VES in gold. Lists VES.'))
    await userEvent.keyboard('{End}')
    await waitFor(() => expect(spoken()).toBe('Varnby: not marked. Tagger PRT 90.0 percent. gold and evidence differ here.'))
    await userEvent.keyboard('{ArrowLeft}')
    await waitFor(() => expect(spoken()).toBe('from: not marked.'))
  })

  it('goes on to where a single source says otherwise when nothing else differs', async () => {
    const other = found(18, 24, 'VES', { source: 'lists' })
    await openDesk({ 'GET /desk/sentences/1': sentence(1, {}, { lanes: { lists: [PELLIN, other], rules: [], tagger: [VARNBY] }, resolved: [VARNBY, PELLIN] }) })
    await userEvent.keyboard('{Home} {End}{ArrowLeft}.')
    expect(screen.getByRole('complementary')).toHaveTextContent('Varnby')
    await userEvent.keyboard(' {Home}.')
    expect(gold()).toEqual(['VES', 'PRT'])
    expect(document.querySelectorAll('[data-differs]')).toHaveLength(0)
    expect(screen.getByRole('complementary')).toHaveTextContent('Varnby')
    await userEvent.click(screen.getByRole('button', { name: 'turn down VES from lists' }))
    await userEvent.keyboard('.')
    expect(screen.getByText('Gold and every source agree here.')).toBeInTheDocument()
  })

  it('takes all undisputed evidence at once, logged with its sources', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('{Shift>} {/Shift}')
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'take', 0, 'VES PRT']]))
    expect((written(asked)[0]?.body as Required<Sent>).verdicts).toEqual([
      { start: 0, end: 6, type: 'VES', source: 'lists', maker: '', taken: true },
      { start: 18, end: 24, type: 'PRT', source: 'tagger', maker: '', taken: true },
    ])
    await userEvent.keyboard('{Shift>} {/Shift}')
    expect(screen.getByText('No evidence is left here on which all sources agree.')).toBeInTheDocument()
  })

  it('shows a sentence of a long text, and takes acts on it, before its evidence has been looked up', async () => {
    let arrive: (full: DeskSentenceShown) => void = () => undefined
    const full = new Promise<DeskSentenceShown>((resolve) => (arrive = resolve))
    const answer = (sent: unknown) => ((sent as { evidence?: string }).evidence === 'false' ? sentence(1, {}, { lanes: {}, resolved: [], of: 3000 }) : full)
    const { asked } = openPlace(<DeskInFrame />, 'desk/1', { ...ANSWERS, ...LONG, 'GET /desk/sentences/1': answer })
    await screen.findByText(/sentence 1 of 3000/)
    expect(screen.getByText('Looking up evidence…')).toBeInTheDocument()
    await userEvent.keyboard('{Shift>}{Enter}{/Shift}')
    expect(screen.getByText(/Still looking up evidence here/)).toBeInTheDocument()
    await userEvent.keyboard('{ArrowRight}v')
    expect(gold()).toEqual(['VES'])
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'mark', 0, 'VES']]))
    // What comes with the evidence was read before that act arrived.
    arrive(sentence(1, {}, { of: 3000 }))
    expect(await screen.findByRole('group', { name: 'lanes' })).toBeInTheDocument()
    expect(document.querySelectorAll('[data-lane]')).toHaveLength(4)
    expect(gold()).toEqual(['VES'])
    await userEvent.keyboard('p')
    await waitFor(() => expect(acts(asked)[1]).toEqual(['PUT /desk/sentences/1', 'mark', 1, 'PRT']))
    expect(screen.getByRole('complementary')).toHaveTextContent('is')
  })

  it('goes to the first gap when the evidence of a long text comes, unless one has been at work', async () => {
    let arrive: (full: DeskSentenceShown) => void = () => undefined
    const full = new Promise<DeskSentenceShown>((resolve) => (arrive = resolve))
    const answer = (sent: unknown) => ((sent as { evidence?: string }).evidence === 'false' ? sentence(1, {}, { lanes: {}, resolved: [], of: 3000 }) : full)
    openPlace(<DeskInFrame />, 'desk/1', { ...ANSWERS, ...LONG, 'GET /desk/sentences/1': answer })
    await screen.findByText(/sentence 1 of 3000/)
    arrive(sentence(1, {}, { of: 3000, resolved: [VARNBY] }))
    await screen.findByRole('group', { name: 'lanes' })
    expect(screen.getByRole('complementary')).toHaveTextContent('Varnby')
  })

  it.each([
    [2, 1],
    // Without its evidence first, then with it.
    [3000, 2],
  ])('goes to a sentence of a text of %d sentences with %d questions', async (of, questions) => {
    const items = [1, 2, 3].map((id) => ({ ...(QUEUE.items[0] as QueueItemShown), id, of }))
    const { asked, router } = await openDesk({ 'GET /desk/queue': { ...QUEUE, items }, 'GET /desk/sentences/3': sentence(3), 'GET /desk/sentences/3/elsewhere': { as_span: {}, inside: {}, bare: 0, sentences: 0 } })
    await screen.findAllByRole('option')
    await act(() => router.navigate('/p/tessmar/desk/3'))
    await waitFor(() => expect(asked.filter(({ what }) => what === 'GET /desk/sentences/3')).toHaveLength(questions))
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
        ['PUT /desk/sentences/1', 'sign', 0, 'VES PRT'],
      ]),
    )
    expect((written(asked)[0]?.body as Required<Sent>).verdicts).toHaveLength(2)
  })

  it('undoes taking and signing as what it was, one act, also while the server is away', async () => {
    let away = true
    const undone = { sentence_id: 1, annotation: { ...NOTHING, version: 3, state: 'draft', spans: [span(0, 6, 'VES')] }, sentences: 1, left: 0 }
    const ifThere = (answer: (wish: unknown) => unknown) => (wish: unknown) => (away ? new Refusal(503, { detail: 'Busy.' }) : answer(wish))
    const { router } = await openDesk({ 'PUT /desk/sentences/1': ifThere(stored), 'POST /desk/undo': ifThere(() => undone) })
    await userEvent.keyboard('v{Shift>}{Enter}{/Shift}')
    await screen.findByText(/sentence 2 of 2/)
    await userEvent.keyboard('{Control>}z{/Control}')
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/1'))
    expect(gold()).toEqual(['VES'])
    expect(screen.getByText(/begun, not signed/)).toBeInTheDocument()
    expect(screen.getByText('The server is busy. 3 acts wait here and will be sent; go on working.')).toBeInTheDocument()
    away = false
    await waitFor(() => expect(screen.queryByText(/wait here/)).toBeNull())
    expect(gold()).toEqual(['VES'])
  })

  it('writes once for a key that is held down, and moves on for an arrow that is', async () => {
    const { asked } = await openDesk()
    const held = (key: string, init: KeyboardEventInit = {}) => act(() => void document.body.dispatchEvent(new KeyboardEvent('keydown', { key, repeat: true, bubbles: true, cancelable: true, ...init })))
    held('Enter', { shiftKey: true })
    held('v')
    held('ArrowRight')
    held('ArrowRight')
    expect(screen.getByRole('complementary')).toHaveTextContent('in')
    expect(screen.getByText(/sentence 1 of 2/)).toBeInTheDocument()
    expect(written(asked)).toEqual([])
  })

  it('hears no maker that has mostly been wrong: the rest is undisputed, and what was overruled says why', async () => {
    const noise = found(18, 24, 'VES', { source: 'lists', maker: 'cargoes', doubt: 'right 3 of 40 times where sentences are signed', overruled: 'right 3 of 40 times where sentences are signed; PRT is surer here' })
    const { asked } = await openDesk({ 'GET /desk/sentences/1': sentence(1, {}, { lanes: { lists: [PELLIN, noise], rules: [], tagger: [VARNBY] } }) })
    expect(document.querySelector('[data-lane=lists] .beaten')).toHaveTextContent('VES')
    await userEvent.keyboard('{End}')
    expect(screen.getByRole('complementary')).toHaveTextContent('right 3 of 40 times where sentences are signed')
    await userEvent.keyboard('{Shift>}{Enter}{/Shift}')
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'sign', 0, 'VES PRT']]))
  })

  it('takes nothing unseen that only such a maker says', async () => {
    const noise = found(18, 24, 'VES', { source: 'lists', doubt: 'right 3 of 40 times where sentences are signed' })
    const { asked } = await openDesk({ 'GET /desk/sentences/1': sentence(1, {}, { lanes: { lists: [PELLIN, noise], rules: [] }, resolved: [PELLIN, noise] }) })
    await userEvent.keyboard('{Shift>}{Enter}{/Shift}')
    expect(screen.getByText(/look at that before you sign/)).toBeInTheDocument()
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'take', 0, 'VES']]))
  })

  it('does not sign with that key where something is left to be looked at', async () => {
    const disputed = sentence(1, {}, { lanes: { lists: [PELLIN], rules: [found(18, 24, 'VES')], tagger: [VARNBY] } })
    const { asked } = await openDesk({ 'GET /desk/sentences/1': disputed })
    await userEvent.keyboard('{Shift>}{Enter}{/Shift}')
    expect(screen.getByText(/look at that before you sign/)).toBeInTheDocument()
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'take', 0, 'VES']]))
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
    const wish = written(asked)[0]?.body as Required<Sent>
    expect([wish.kind, wish.spans]).toEqual(['turn down', []])
    expect(wish.turned_down).toEqual([{ start: 0, end: 6, type: 'VES' }])
    expect(wish.verdicts).toEqual([{ start: 0, end: 6, type: 'VES', source: 'lists', maker: '', taken: false }])
    await userEvent.click(screen.getByRole('button', { name: 'offer again VES from lists' }))
    await waitFor(() => expect((written(asked)[1]?.body as Required<Sent>).turned_down).toEqual([]))
    expect(document.querySelectorAll('[data-differs]')).toHaveLength(2)
    await userEvent.keyboard(' {Home}-')
    expect(screen.getByText(/stands in gold; remove it there first/)).toBeInTheDocument()
  })

  it('is begun, not untouched, when all that is left is evidence that was turned down', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('-{ArrowRight}v{Backspace}')
    await waitFor(() => expect(acts(asked).at(-1)).toEqual(['PUT /desk/sentences/1', 'remove', 2, '']))
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
    expect(await within(await screen.findByRole('dialog')).findByText(/31\/4 · sentence 3/)).toBeInTheDocument()
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
    expect(reasons).toHaveTextContent('Scores 1.25 more than the best answer without it: VES “Varnby”.')
    expect(reasons).toHaveTextContent('+2.00word “from” the word before')
    expect(reasons).toHaveTextContent('−0.25move from outside to PRT begins')
    expect(reasons).toHaveTextContent('−0.503 smaller ones')
    expect(asked.find(({ what }) => what.endsWith('/why'))?.body).toEqual({ start: '18', end: '24', type: 'PRT' })
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
    // No source has been asked, so none is said to agree.
    await userEvent.keyboard('.')
    expect(screen.getAllByText('Test texts are annotated without suggestions.')).toHaveLength(2)
    expect(screen.queryByText(/every source agree/)).not.toBeInTheDocument()
  })
})
