import { create } from 'zustand'

import type { KeysShown } from '../api/schema'
import type { KeyBinding } from './keys'

/** How somebody's keys differ from the standard ones; kept with their account. */
export type OwnKeys = Required<KeysShown>

export const STANDARD: OwnKeys = { singles: 'plain', own: {} }

export const useOwnKeys = create<OwnKeys>(() => STANDARD)

/** Is it a character alone, such as a letter? Speech input and a slip of the hand press these. */
export const isSingle = (key: string) => Array.from(key).length === 1

/** The keys that do it for this person; none where they have switched it off. */
export function keysOf({ keys, label }: Pick<KeyBinding, 'keys' | 'label'>, { singles, own }: OwnKeys): string[] {
  const chosen = own[label]
  if (chosen !== undefined) return chosen === '' ? [] : [chosen]
  if (singles === 'plain') return keys
  return keys.flatMap((key) => (!isSingle(key) ? [key] : singles === 'alt' ? [`alt+${key}`] : []))
}

const CAPS: Record<string, string> = { arrowright: '→', arrowleft: '←', arrowdown: '↓', arrowup: '↑', backspace: '⌫', escape: 'esc' }

/** A key as its caps are printed: 'ctrl+arrowup' → ctrl ↑. A plus alone is a key too. */
export function capsOf(key: string): string[] {
  return key.split(/\+(?=.)/).map((part) => CAPS[part] ?? part)
}

/** The caps of a binding for this person: its own, unless their key is another. */
export function shownCaps(binding: Pick<KeyBinding, 'keys' | 'label' | 'caps'>, mine: OwnKeys): string[] {
  const [first] = keysOf(binding, mine)
  if (first === binding.keys[0]) return binding.caps
  return first === undefined ? [] : capsOf(first)
}
