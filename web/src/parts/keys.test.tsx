import { fireEvent, render, screen } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { activeBindings, handleKey, type KeyBinding, pressed, useKeys, useKeyStore } from './keys'

const key = (init: KeyboardEventInit) => pressed(new KeyboardEvent('keydown', init))

describe('pressed', () => {
  it.each([
    [{ key: 'v' }, 'v'],
    [{ key: 'Z', ctrlKey: true, shiftKey: true }, 'ctrl+shift+z'],
    [{ key: 'z', metaKey: true }, 'ctrl+z'],
    [{ key: '?', shiftKey: true }, '?'],
    [{ key: ' ' }, 'space'],
    [{ key: 'ArrowRight', shiftKey: true }, 'shift+arrowright'],
    [{ key: 'Enter', ctrlKey: true }, 'ctrl+enter'],
    // With a German layout: shift and 7, keys of their own, and the third level.
    [{ key: '/', code: 'Digit7', shiftKey: true }, '/'],
    [{ key: '+', code: 'BracketRight' }, '+'],
    [{ key: '#', code: 'Backslash' }, '#'],
    [{ key: 'Ä', code: 'Quote', shiftKey: true }, 'shift+ä'],
    [{ key: '{', code: 'Digit7', ctrlKey: true, altKey: true, modifierAltGraph: true }, '{'],
    // Where alt writes characters, a digit with alt is still that digit.
    [{ key: '¡', code: 'Digit1', altKey: true }, 'alt+1'],
    [{ key: '1', code: 'Numpad1', altKey: true }, 'alt+1'],
    [{ key: '√', code: 'KeyV', altKey: true }, 'alt+v'],
    [{ key: 'z', code: 'KeyY', altKey: true }, 'alt+z'],
  ])('writes %o as %s', (init, name) => {
    expect(key(init)).toBe(name)
  })
})

function Layer({ bindings, level = 0 }: { bindings: KeyBinding[]; level?: number }) {
  useKeys(bindings, level)
  return (
    <>
      <input aria-label="field" />
      <button type="button">act</button>
    </>
  )
}

const binding = (keys: string, run: () => void, more: Partial<KeyBinding> = {}): KeyBinding => ({
  keys: [keys],
  caps: [keys],
  label: keys,
  run,
  ...more,
})

describe('useKeys', () => {
  it('does once what a held key writes, again and again what goes somewhere', () => {
    const write = vi.fn()
    const go = vi.fn()
    render(<Layer bindings={[binding('v', write), binding('arrowright', go, { repeats: true })]} />)
    for (const key of ['v', 'ArrowRight']) {
      for (const repeat of [false, true, true]) {
        const event = new KeyboardEvent('keydown', { key, repeat, cancelable: true })
        handleKey(event)
        // What the browser would do with it, it does not do either.
        expect(event.defaultPrevented).toBe(true)
      }
    }
    expect([write.mock.calls.length, go.mock.calls.length]).toEqual([1, 3])
  })

  beforeEach(() => window.addEventListener('keydown', handleKey))
  afterEach(() => window.removeEventListener('keydown', handleKey))

  it('runs the binding, and not while somebody types', () => {
    const run = vi.fn()
    render(<Layer bindings={[binding('v', run)]} />)
    fireEvent.keyDown(document.body, { key: 'v' })
    fireEvent.keyDown(screen.getByLabelText('field'), { key: 'v' })
    expect(run).toHaveBeenCalledTimes(1)
  })

  it('works in fields where it says so', () => {
    const run = vi.fn()
    render(<Layer bindings={[binding('ctrl+enter', run, { inFields: true })]} />)
    fireEvent.keyDown(screen.getByLabelText('field'), { key: 'Enter', ctrlKey: true })
    expect(run).toHaveBeenCalledTimes(1)
  })

  it('leaves enter and space to a button that has the focus', () => {
    const run = vi.fn()
    render(<Layer bindings={[binding('enter', run)]} />)
    fireEvent.keyDown(screen.getByRole('button'), { key: 'Enter' })
    expect(run).not.toHaveBeenCalled()
  })

  it('sleeps under a window and wakes when it is gone', () => {
    const run = vi.fn()
    render(<Layer bindings={[binding('v', run)]} />)
    const above = render(<Layer bindings={[]} level={1} />)
    fireEvent.keyDown(document.body, { key: 'v' })
    expect(run).not.toHaveBeenCalled()
    above.unmount()
    fireEvent.keyDown(document.body, { key: 'v' })
    expect(run).toHaveBeenCalledTimes(1)
  })

  it('always runs the latest function and is gone with its component', () => {
    const [old, latest] = [vi.fn(), vi.fn()]
    const { rerender, unmount } = render(<Layer bindings={[binding('v', old)]} />)
    rerender(<Layer bindings={[binding('v', latest)]} />)
    fireEvent.keyDown(document.body, { key: 'v' })
    expect([old.mock.calls.length, latest.mock.calls.length]).toEqual([0, 1])
    unmount()
    expect(activeBindings(useKeyStore.getState().layers)).toEqual([])
  })
})
