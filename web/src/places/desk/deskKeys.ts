import type { TypeShown } from '../../api/schema'
import type { KeyBinding } from '../../parts/keys'
import { EVERY_LANE } from './lanes'
import { toggleLane } from './settings'

/** What keys do to the open sentence and its cursor. */
export interface SheetActs {
  step: (by: number, widen: boolean) => void
  stepWord: (by: 1 | -1) => void
  stepRun: (by: 1 | -1) => void
  stepSign: (by: 1 | -1) => void
  stepSpan: (by: 1 | -1) => void
  stepSentence: (by: 1 | -1) => void
  toFirst: () => void
  toLast: () => void
  gap: () => void
  markAs: (type: string) => void
  markAgain: () => void
  remove: () => void
  nudge: (side: 'start' | 'end', by: 1 | -1) => void
  splitHere: () => void
  joinNext: () => void
  take: () => void
  takeAll: () => void
  turnDown: () => void
  sign: () => void
  takeAndSign: () => void
  signEmpty: () => void
  unsign: () => void
  undo: () => void
  redo: () => void
  alike: () => void
  read: () => void
  ask: () => void
}

const CAPS: Record<string, string> = { arrowright: '→', arrowleft: '←', arrowdown: '↓', arrowup: '↑', backspace: '⌫', escape: 'esc' }

/** A key as its caps are printed: 'ctrl+arrowup' → ctrl ↑. A plus alone is a key too. */
function capsOf(key: string): string[] {
  return key.split(/\+(?=.)/).map((part) => CAPS[part] ?? part)
}

/** A binding that stands under "all keys" alone; of several keys the first is shown. */
function quiet(keys: string | readonly [string, ...string[]], label: string, run: () => void): KeyBinding {
  const all = typeof keys === 'string' ? ([keys] as const) : keys
  return { keys: [...all], caps: capsOf(all[0]), label, run, quiet: true }
}

/** A binding that the strip shows as well. */
function shown(keys: string | readonly [string, ...string[]], label: string, run: () => void, short?: string): KeyBinding {
  return { ...quiet(keys, label, run), quiet: false, ...(short === undefined ? {} : { short }) }
}

/** The same bindings, said to be about something. */
const about = (topic: string, bindings: readonly KeyBinding[]) => bindings.map((binding) => ({ ...binding, topic }))

/** The keys of the open sentence. */
export function deskKeys(acts: SheetActs, types: readonly TypeShown[]): KeyBinding[] {
  return [
    ...about('Go', [
      { ...shown('arrowright', 'token', () => acts.step(1, false)), caps: ['← →'] },
      quiet('arrowleft', 'token before', () => acts.step(-1, false)),
      shown('shift+arrowright', 'widen', () => acts.step(1, true)),
      quiet('shift+arrowleft', 'narrow or widen to the left', () => acts.step(-1, true)),
      quiet(';', 'next word', () => acts.stepWord(1)),
      quiet(':', 'word before', () => acts.stepWord(-1)),
      quiet('ctrl+arrowright', 'next name or figure', () => acts.stepRun(1)),
      quiet('ctrl+arrowleft', 'name or figure before', () => acts.stepRun(-1)),
      quiet('ctrl+shift+arrowright', 'one sign more, also within a word', () => acts.stepSign(1)),
      quiet('ctrl+shift+arrowleft', 'one sign less, also within a word', () => acts.stepSign(-1)),
      quiet([')', 'ctrl+arrowdown'], 'next span or evidence', () => acts.stepSpan(1)),
      quiet(['(', 'ctrl+arrowup'], 'span or evidence before', () => acts.stepSpan(-1)),
      quiet('home', 'first token', acts.toFirst),
      quiet('end', 'last token', acts.toLast),
      quiet('escape', 'only the token under the cursor', () => acts.step(0, false)),
      quiet('arrowdown', 'next sentence', () => acts.stepSentence(1)),
      quiet('arrowup', 'sentence before', () => acts.stepSentence(-1)),
    ]),
    ...about('Mark', [
      ...types.map((t) => quiet(t.key, `mark as ${t.name}`, () => acts.markAs(t.code))),
      { keys: [], caps: ['letter'], label: 'mark', run: () => undefined },
      quiet(',', 'mark as last time', acts.markAgain),
      quiet('alt+arrowright', 'end of the span one token on', () => acts.nudge('end', 1)),
      quiet('alt+arrowleft', 'end of the span one token back', () => acts.nudge('end', -1)),
      quiet('alt+shift+arrowright', 'beginning of the span one token on', () => acts.nudge('start', 1)),
      quiet('alt+shift+arrowleft', 'beginning of the span one token back', () => acts.nudge('start', -1)),
      quiet('/', 'split the span before this word', acts.splitHere),
      quiet('+', 'join the span with the next one', acts.joinNext),
      quiet('*', 'mark all like this span', acts.alike),
    ]),
    ...about('Evidence', [
      shown('space', 'take the evidence', acts.take, 'take'),
      quiet('shift+space', 'take all undisputed', acts.takeAll),
      shown('-', 'turn down', acts.turnDown),
      shown('.', 'next gap', acts.gap, 'gap'),
      ...EVERY_LANE.map(([name, label], i) => quiet(`alt+${i + 1}`, `show or hide ${label.toLowerCase()}`, () => toggleLane(name))),
    ]),
    ...about('Mark', [shown(['backspace', 'delete'], 'remove', acts.remove)]),
    ...about('Sign', [
      shown('enter', 'sign and go on', acts.sign, 'sign'),
      shown('shift+enter', 'take all undisputed and sign', acts.takeAndSign, 'take, sign'),
      shown('ctrl+enter', 'sign as empty', acts.signEmpty, 'empty'),
      quiet('ctrl+backspace', 'withdraw the signature', acts.unsign),
      quiet('!', 'ask the lead', acts.ask),
      quiet('ctrl+z', 'undo', acts.undo),
      quiet(['ctrl+shift+z', 'ctrl+y'], 'do again', acts.redo),
    ]),
    ...about('Look', [quiet('=', 'read the whole text', acts.read)]),
  ]
}
