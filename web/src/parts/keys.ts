import { useId, useLayoutEffect, useRef } from 'react'
import { create } from 'zustand'

import { keysOf, useOwnKeys } from './ownKeys'

/**
 * Keys that work now. Whoever can be reached by a key says so here; the strip along the bottom shows
 * it and one listener runs it, so the two can never differ.
 */
export interface KeyBinding {
  /** As `pressed` writes it: 'enter', 'ctrl+enter', 'shift+arrowright', 'v', '?'. */
  keys: string[]
  /** How the strip shows it; several are shown side by side. */
  caps: string[]
  label: string
  /** As the strip has it, where the label is too long for it. */
  short?: string
  run: () => void
  /** What it is about: under "all keys" those of one topic stand together. */
  topic?: string
  /** Listed under "all keys" only. */
  quiet?: boolean
  /** Works while a text field has the focus too. */
  inFields?: boolean
  /** Held down, it is done again and again: right for what only goes somewhere. Without it a held key does it once. */
  repeats?: boolean
}

interface Layer {
  id: string
  level: number
  bindings: () => KeyBinding[]
}

interface KeyStore {
  layers: Layer[]
  /** Rises whenever a layer's bindings may look different. */
  turn: number
  put: (layer: Layer) => void
  drop: (id: string) => void
}

export const useKeyStore = create<KeyStore>((set) => ({
  layers: [],
  turn: 0,
  put: (layer) =>
    set((s) => ({ layers: [...s.layers.filter((l) => l.id !== layer.id), layer], turn: s.turn + 1 })),
  drop: (id) => set((s) => ({ layers: s.layers.filter((l) => l.id !== id), turn: s.turn + 1 })),
}))

/** The key of an event in our writing. */
export function pressed(event: KeyboardEvent): string {
  // Some keyboards need a third level to write a character: then ctrl and alt, which stand for it, are part of how it is typed.
  const third = event.getModifierState('AltGraph')
  const key = event.key === ' ' ? 'space' : plainOf(event) ?? event.key.toLowerCase()
  const written = Array.from(key).length === 1
  const parts = []
  if ((event.ctrlKey || event.metaKey) && !third) parts.push('ctrl')
  if (event.altKey && !third) parts.push('alt')
  // With a character like "?" shift is part of how it is typed.
  if (event.shiftKey && (!written || /\p{L}/u.test(key))) parts.push('shift')
  return [...parts, key].join('+')
}

/** The digit or letter of a key while alt is held: some systems write another character then. */
function plainOf(event: KeyboardEvent): string | undefined {
  if (!event.altKey || event.getModifierState('AltGraph')) return undefined
  const digit = /^Digit(\d)$/.exec(event.code)?.[1]
  // A letter that was written is the one of this layout; only where another character was is the key's place asked.
  return digit ?? (/^[a-z]$/i.test(event.key) ? undefined : /^Key([A-Z])$/.exec(event.code)?.[1]?.toLowerCase())
}

function isField(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName))
  )
}

/** Enter and space belong to a button or link that has the focus. */
function belongsToFocus(event: KeyboardEvent, key: string): boolean {
  return (
    (key === 'enter' || key === 'space') &&
    event.target instanceof HTMLElement &&
    event.target.closest('button, a, summary, [role=button]') !== null
  )
}

/** The layers that count: all, or only those of the highest level when a dialog is open. */
export function activeBindings(layers: Layer[]): KeyBinding[] {
  const top = Math.max(0, ...layers.map((layer) => layer.level))
  return layers.filter((layer) => layer.level === top).flatMap((layer) => layer.bindings())
}

/** Do what a key of these layers does, as it is now: for those who click it instead. */
export function runKey(key: string | undefined, layers: Layer[]): void {
  activeBindings(layers)
    .find((binding) => binding.keys[0] === key)
    ?.run()
}

export function handleKey(event: KeyboardEvent): void {
  if (event.defaultPrevented || event.isComposing) return
  const key = pressed(event)
  if (belongsToFocus(event, key)) return
  const field = isField(event.target)
  const mine = useOwnKeys.getState()
  const binding = activeBindings(useKeyStore.getState().layers).find(
    (b) => keysOf(b, mine).includes(key) && (!field || b.inFields),
  )
  if (binding) {
    event.preventDefault()
    if (!event.repeat || binding.repeats) binding.run()
  }
}

/**
 * Make keys work while the component is there. `level` 1 is for dialogs: they hide the keys below.
 */
export function useKeys(bindings: KeyBinding[], level = 0): void {
  const id = useId()
  const latest = useRef(bindings)
  const shown = bindings.map((b) => `${b.caps.join()} ${b.label} ${b.short ?? ''} ${String(b.quiet)}`).join('|')
  // Before the browser can hand over the next key: a key never acts on what is no longer shown.
  useLayoutEffect(() => {
    latest.current = bindings
  })
  useLayoutEffect(() => {
    useKeyStore.getState().put({ id, level, bindings: () => latest.current })
    return () => useKeyStore.getState().drop(id)
  }, [id, level, shown])
}
