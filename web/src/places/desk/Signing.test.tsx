import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { SpanShown } from '../../api/schema'
import { Refusal, written } from '../../test/fake'
import { acts, keeping, freshDesk, gold, NOTHING, openDesk, sentence, span, stored } from './fixture'

beforeEach(freshDesk)

describe('signing, asking, taking back', () => {
  it('signs as empty on purpose only, and never with spans', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('v{Control>}{Enter}{/Control}')
    expect(screen.getByText(/remove them before you sign it as empty/)).toBeInTheDocument()
    await userEvent.keyboard('{Backspace}{Control>}{Enter}{/Control}')
    await waitFor(() => expect(acts(asked).at(-1)).toEqual(['PUT /desk/sentences/1', 'sign as empty', 2, '']))
  })

  it('takes a signing back', async () => {
    const signed = sentence(1, { state: 'signed', version: 3, spans: [span(0, 6, 'VES')] })
    const { asked } = await openDesk({ 'GET /desk/sentences/1': signed })
    await userEvent.click(screen.getByRole('button', { name: 'withdraw the signature' }))
    await waitFor(() => expect(acts(asked)).toEqual([['PUT /desk/sentences/1', 'unsign', 3, '']]))
  })

  it('asks the lead, who answers', async () => {
    const { asked } = await openDesk({ 'PUT /desk/sentences/1': keeping() })
    await userEvent.keyboard('!')
    await userEvent.type(await screen.findByRole('textbox', { name: 'question' }), 'Does a tug count?')
    await userEvent.click(screen.getByRole('button', { name: 'ask' }))
    await waitFor(() => expect(written(asked)).toHaveLength(1))
    expect(written(asked)[0]?.body).toEqual({ kind: 'ask', version: 0, token: expect.any(String) as string, question: 'Does a tug count?' })
    expect(screen.getByText('1 with a question', { exact: false })).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'answer or change' }))
    await userEvent.type(await screen.findByRole('textbox', { name: 'answer' }), 'It does.')
    await userEvent.click(screen.getByRole('button', { name: 'answer' }))
    await waitFor(() => expect(written(asked)).toHaveLength(2))
    expect(written(asked)[1]?.body).toEqual({ kind: 'answer', version: 1, token: expect.any(String) as string, answer: 'It does.' })
    expect(screen.getByText('0 with a question', { exact: false })).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'open' }))
    await userEvent.click(await screen.findByRole('button', { name: 'withdraw the question' }))
    await waitFor(() => expect(written(asked)[2]?.body).toMatchObject({ kind: 'ask', question: '' }))
  })

  it('undoes across sentences', async () => {
    const undone = { sentence_id: 1, annotation: { ...NOTHING, state: 'draft', version: 4, spans: [span(0, 6, 'VES')] }, sentences: 1, left: 0 }
    const { router } = await openDesk({ 'POST /desk/undo': undone }, 'desk/2')
    await userEvent.keyboard('{Control>}z{/Control}')
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/1'))
  })

  it('undoes and redoes at once while the server is away, and tells it when it is back', async () => {
    let away = true
    const ifThere = (answer: (wish: unknown) => unknown) => (wish: unknown) => (away ? new Refusal(503, { detail: 'Away.' }) : answer(wish))
    const travelled = (version: number, ...spans: SpanShown[]) => ({ sentence_id: 1, annotation: { ...NOTHING, version, state: 'draft', spans }, sentences: 1, left: 0 })
    const { asked } = await openDesk({
      'PUT /desk/sentences/1': ifThere(stored),
      'POST /desk/undo': ifThere(() => travelled(3, span(0, 6, 'VES'))),
      'POST /desk/redo': ifThere(() => travelled(4, span(0, 6, 'VES'), span(7, 9, 'PRT'))),
    })
    await userEvent.keyboard('v{ArrowRight}p')
    expect(gold()).toEqual(['VES', 'PRT'])
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(gold()).toEqual(['VES'])
    await userEvent.keyboard('{Control>}zz{/Control}')
    expect(gold()).toEqual([])
    // Before these two there is nothing that the page knows.
    expect(await screen.findByText(/earlier ones can be undone when it does/)).toBeInTheDocument()
    await userEvent.keyboard('{Control>}{Shift>}zz{/Shift}{/Control}')
    expect(gold()).toEqual(['VES', 'PRT'])
    expect(screen.getByText(/6 acts wait here/)).toBeInTheDocument()
    away = false
    await waitFor(() => expect(screen.queryByText(/wait here/)).toBeNull(), { timeout: 5000 })
    const sent = written(asked).slice(-6)
    expect(sent.map(({ what }) => what.split(' ')[1])).toEqual([
      '/desk/sentences/1', '/desk/sentences/1', '/desk/undo', '/desk/undo', '/desk/redo', '/desk/redo',
    ])
    const tokens = sent.map(({ body }) => (body as { token: string }).token)
    expect(sent.slice(2).map(({ body }) => (body as { of: string }).of)).toEqual([tokens[1], tokens[0], tokens[0], tokens[1]])
    expect(new Set(tokens).size).toBe(6)
    expect(gold()).toEqual(['VES', 'PRT'])
  })

  it('shows what stands when an act of its own could not be undone', async () => {
    const left = { sentence_id: 1, annotation: { ...NOTHING, state: 'draft', version: 5, spans: [span(18, 24, 'PRT')] }, sentences: 0, left: 1 }
    await openDesk({ 'POST /desk/undo': left })
    await userEvent.keyboard('v{Control>}z{/Control}')
    expect(await screen.findByText('This has been changed since and stays as it is; the next undo passes over it.')).toBeInTheDocument()
    expect(gold()).toEqual(['PRT'])
  })

  it('does by mouse whatever keys do', async () => {
    const undone = { sentence_id: 1, annotation: { ...NOTHING, version: 4 }, sentences: 1, left: 0 }
    const { asked } = await openDesk({ 'POST /desk/undo': undone })
    await userEvent.click(screen.getByRole('button', { name: /take$/, hidden: true }))
    expect(gold()).toEqual(['VES'])
    await userEvent.click(screen.getByRole('button', { name: 'undo' }))
    await waitFor(() => expect(written(asked).at(-1)?.what).toBe('POST /desk/undo'))
    await userEvent.click(screen.getByRole('button', { name: /empty$/, hidden: true }))
    await waitFor(() => expect(written(asked).at(-1)?.body).toMatchObject({ kind: 'sign as empty' }))
  })

  it('says when there is nothing to undo', async () => {
    await openDesk({ 'POST /desk/undo': new Refusal(404, { detail: 'There is nothing to undo.' }) })
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(await screen.findByText('There is nothing to undo.')).toBeInTheDocument()
  })

  it('shows both versions when somebody else wrote first', async () => {
    const refusal = new Refusal(409, {
      type: 'urn:urdaten:stale-write', detail: 'Somebody else changed this.',
      theirs: { state: 'draft', version: 1, by: 'Jo', spans: [[18, 24, 'PRT']] },
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
    expect(within(window).getByText(/^Jo changed it while you worked on it. Nothing is lost yet/)).toBeInTheDocument()
    // Neither a key nor a click beside it makes the choice.
    await userEvent.keyboard('{Escape}')
    fireEvent.pointerDown(document.body)
    fireEvent.click(document.body)
    expect(screen.getByRole('dialog')).toBeInTheDocument()
    expect(within(window).getByText(/There now: PRT/)).toBeInTheDocument()
    expect(within(window).getByText(/Yours: VES/)).toBeInTheDocument()
    await userEvent.click(within(window).getByRole('button', { name: 'replace it with mine' }))
    await waitFor(() => expect(acts(asked).at(-1)).toEqual(['PUT /desk/sentences/1', 'mark', 1, 'VES']))
  })
})
