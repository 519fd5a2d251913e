import { fireEvent, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import { SCHEME, written } from '../../test/fake'
import { acts, freshDesk, gold, openDesk, sentence, type Sent } from './fixture'

beforeEach(freshDesk)

describe('marking', () => {
  it('marks by key, again by another key, and signs', async () => {
    const { asked, router } = await openDesk()
    await userEvent.keyboard('v')
    expect(gold()).toEqual(['VES'])
    await userEvent.keyboard('p')
    expect(gold()).toEqual(['PRT'])
    await userEvent.keyboard('{Enter}')
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/tessmar/desk/2'))
    expect(acts(asked)).toEqual([
      ['PUT /desk/sentences/1', 'mark', 0, 'VES'],
      ['PUT /desk/sentences/1', 'mark', 1, 'PRT'],
      ['PUT /desk/sentences/1', 'sign', 2, 'PRT'],
    ])
  })

  it('widens the selection and marks it whole', async () => {
    const { asked } = await openDesk()
    await userEvent.keyboard('{End}{Shift>}{ArrowLeft}{/Shift}p')
    await waitFor(() => expect(written(asked)).toHaveLength(1))
    expect((written(asked)[0]?.body as Required<Sent>).spans).toEqual([{ start: 13, end: 24, type: 'PRT' }])
  })

  it('goes from word to word, past punctuation', async () => {
    const tokens = [[0, 6], [6, 7], [8, 10]].map(([start = 0, end = 0]) => ({ start, end }))
    const { asked } = await openDesk({ 'GET /desk/sentences/1': sentence(1, {}, { words: 'Pellin, in', tokens, lanes: {}, resolved: [] }) })
    await userEvent.keyboard('{Home};p:v')
    await waitFor(() => expect(written(asked)).toHaveLength(2))
    expect((written(asked)[1]?.body as Required<Sent>).spans).toEqual([{ start: 0, end: 6, type: 'VES' }, { start: 8, end: 10, type: 'PRT' }])
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
        ['PUT /desk/sentences/1', 'mark', 0, 'VES'],
        ['PUT /desk/sentences/1', 'mark', 1, 'VES VES'],
        ['PUT /desk/sentences/1', 'change', 2, 'PRT VES'],
      ]),
    )
    expect((written(asked)[2]?.body as Required<Sent>).spans[0]).toEqual({ start: 0, end: 9, type: 'PRT' })
  })

  it('moves both bounds of a span, splits it and joins it again', async () => {
    const { asked } = await openDesk()
    const spans = () => (written(asked).at(-1)?.body as Required<Sent>).spans.map((s) => [s.start, s.end])
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
    await waitFor(() => expect((written(asked)[0]?.body as Required<Sent>).spans).toEqual([{ start: 0, end: 4, type: 'VES' }]))
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
    const { spans } = written(asked)[1]?.body as Required<Sent>
    expect(spans.map((s) => [s.start, s.end, s.type])).toEqual([[0, 6, 'PRT'], [0, 9, 'VES']])
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
    expect((written(asked)[0]?.body as Required<Sent>).spans).toEqual([{ start: 13, end: 24, type: 'PRT' }])
  })

  it('opens with the cursor on the word that a link names', async () => {
    await openDesk({}, 'desk/1?at=18')
    expect(screen.getByRole('complementary')).toHaveTextContent('Varnby')
  })
})
