import { ChakraProvider } from '@chakra-ui/react'
import { fireEvent, render, screen, within } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'

import { system } from '../theme/system'
import { goldLane, type Lane, otherLane } from './span'
import { Stave } from './Stave'

const WORDS = 'Pellin from Varnby'
const TOKENS = [
  { start: 10, end: 16 },
  { start: 17, end: 21 },
  { start: 22, end: 28 },
]
const LANES: Lane[] = [
  goldLane([{ start: 10, end: 16, type: 'VES' }], { editable: true }),
  otherLane('tagger', 'Tagger', [
    { start: 10, end: 16, type: 'VES', probability: 0.94 },
    { start: 22, end: 28, type: 'PRT', probability: 0.999 },
  ]),
]

function draw(more: Partial<Parameters<typeof Stave>[0]> = {}) {
  return render(
    <ChakraProvider value={system}>
      <Stave words={WORDS} start={10} tokens={TOKENS} lanes={LANES} hues={new Map([['VES', 16]])} {...more} />
    </ChakraProvider>,
  )
}

// While a bound is dragged its stave has the pointer.
const stave = (container: Element) => container.querySelector('[data-stave]') as HTMLElement

describe('Stave', () => {
  it('gives screen readers the sentence as text and its spans as a list', () => {
    draw()
    expect(screen.getByText(WORDS)).toBeInTheDocument()
    const items = within(screen.getByRole('list')).getAllByRole('listitem')
    expect(items.map((item) => item.textContent)).toEqual([
      'Gold: VES “Pellin”',
      'Tagger: VES “Pellin”',
      'Tagger: PRT “Varnby”',
    ])
  })

  it('writes the letters in every bar, with the probability where there is one', () => {
    const { container } = draw()
    const bars = [...container.querySelectorAll('[data-span]')].map((bar) => bar.textContent)
    expect(bars).toEqual(['VES', 'VES .94', 'PRT 1'])
  })

  it('shows the cursor and where sources differ', () => {
    const differing = [{ start: 22, end: 28, type: 'PRT' }]
    const { container } = draw({ selection: { anchor: 0, head: 1 }, differing })
    expect(container.querySelectorAll('[data-cursor]')).toHaveLength(1)
    expect(container.querySelectorAll('[data-differs]')).toHaveLength(1)
  })

  it('tells which bar was clicked', () => {
    const onSpan = vi.fn()
    const { container } = draw({ onSpan })
    container.querySelector<HTMLElement>('[data-span="22-28-PRT"]')?.click()
    expect(onSpan).toHaveBeenCalledExactlyOnceWith(LANES[1]?.spans[1], LANES[1])
  })

  it('strikes out what is gone and says so', () => {
    const lanes: Lane[] = [{ ...(LANES[1] as Lane), spans: [{ id: 'a', start: 10, end: 16, type: 'VES', change: 'removed', why: 'turned down' }] }]
    const { container } = draw({ lanes })
    expect(container.querySelector('[data-span]')).toHaveAttribute('title', 'VES: turned down')
    expect(screen.getByText('Tagger: VES “Pellin”, gone')).toBeInTheDocument()
  })

  it('lets a bound of a gold span be dragged from its end, and of gold alone', () => {
    const onBound = vi.fn()
    const { container } = draw({ onBound, onSelect: () => undefined })
    const ticks = [...container.querySelectorAll<HTMLElement>('[data-tick]')]
    expect(ticks.map((tick) => tick.dataset['tick'])).toEqual(['start', 'end'])
    // Every word is as wide as nothing here, so the pointer is always nearest to the last one.
    const tick = ticks[1] as HTMLElement
    fireEvent.pointerDown(tick, { button: 0, pointerId: 1 })
    fireEvent.pointerMove(stave(container), { pointerId: 1, clientX: 5000 })
    expect(onBound).not.toHaveBeenCalled()
    fireEvent.pointerUp(stave(container), { pointerId: 1 })
    expect(onBound).toHaveBeenCalledExactlyOnceWith(LANES[0]?.spans[0], { start: 10, end: 28 }, LANES[0])
  })

  it('goes on with a drag when its spans come anew from the server', () => {
    const props = { words: WORDS, start: 10, tokens: TOKENS, lanes: LANES, hues: new Map([['VES', 16]]), onBound: vi.fn(), onSelect: () => undefined }
    const { container, rerender } = render(<ChakraProvider value={system}><Stave {...props} /></ChakraProvider>)
    fireEvent.pointerDown(container.querySelector('[data-tick="end"]') as HTMLElement, { button: 0, pointerId: 1 })
    rerender(<ChakraProvider value={system}><Stave {...props} lanes={structuredClone(LANES)} /></ChakraProvider>)
    fireEvent.pointerMove(stave(container), { pointerId: 1, clientX: 5000 })
    fireEvent.pointerUp(stave(container), { pointerId: 1 })
    expect(props.onBound).toHaveBeenCalledExactlyOnceWith(LANES[0]?.spans[0], { start: 10, end: 28 }, expect.anything())
  })

  it('knows the lane of what is dragged where equal spans stand in two', () => {
    const onBound = vi.fn()
    const lanes = [LANES[0] as Lane, goldLane(LANES[0]?.spans ?? [], { id: 'jo', label: 'Jo', editable: true })]
    const { container } = draw({ lanes, onBound })
    fireEvent.pointerDown(container.querySelector('[data-lane=jo] [data-tick=end]') as HTMLElement, { button: 0, pointerId: 1 })
    fireEvent.pointerMove(stave(container), { pointerId: 1, clientX: 5000 })
    fireEvent.pointerUp(stave(container), { pointerId: 1 })
    expect(onBound.mock.calls[0]?.[2]).toBe(lanes[1])
  })

  it('raises hairlines at the bounds of what the cursor or the pointer is on, and tells of the pointer', () => {
    const onHover = vi.fn()
    const { container } = draw({ focus: { start: 22, end: 28 }, onHover })
    expect(container.querySelectorAll('[data-hairline]')).toHaveLength(2)
    const bar = container.querySelector('[data-lane=tagger] [data-span]') as HTMLElement
    fireEvent.pointerOver(bar)
    fireEvent.pointerOver(bar)
    expect(onHover).toHaveBeenCalledExactlyOnceWith(LANES[1]?.spans[0], LANES[1])
    fireEvent.pointerLeave(stave(container))
    expect(onHover).toHaveBeenLastCalledWith(null, null)
  })

  it('stands in its language and its direction, with labels that can be read whole', () => {
    const { container } = draw({ lang: 'he', words: 'הגיעה לנמל', tokens: [{ start: 10, end: 15 }], lanes: [otherLane('a', 'Annotator with a very long name', [])] })
    expect(stave(container)).toHaveAttribute('lang', 'he')
    expect(container.querySelector('.spoken')).toHaveAttribute('dir', 'rtl')
    expect(container.querySelector('[data-token]')).toHaveAttribute('dir', 'rtl')
    expect(screen.getByTitle('Annotator with a very long name')).toBeInTheDocument()
  })

  it('changes nothing when a drag of a bound is broken off', () => {
    const onBound = vi.fn()
    const { container } = draw({ onBound, onSelect: () => undefined })
    const tick = container.querySelector('[data-tick="end"]') as HTMLElement
    fireEvent.pointerDown(tick, { button: 0, pointerId: 1 })
    fireEvent.pointerMove(stave(container), { pointerId: 1, clientX: 5000 })
    fireEvent.pointerCancel(stave(container), { pointerId: 1 })
    expect(onBound).not.toHaveBeenCalled()
  })
})
