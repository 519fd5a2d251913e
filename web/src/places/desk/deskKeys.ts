import type { TypeShown } from '../../api/schema'
import type { KeyBinding } from '../../parts/keys'
import { capsOf } from '../../parts/ownKeys'
import { EVERY_LANE } from './lanes'
import type { DeskSession } from './session'
import { toggleLane } from './settings'

/** What keys do besides the acts and moves of the open sentence. */
export interface SheetActs {
  stepSentence: (by: 1 | -1) => void
  undo: () => void
  redo: () => void
  alike: () => void
  read: () => void
  ask: () => void
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

/** What a type's key is said to do. */
export const markLabel = (name: string) => `mark as ${name}`

/** The same bindings, said to be about something. */
const about = (topic: string, bindings: readonly KeyBinding[]) => bindings.map((binding) => ({ ...binding, topic }))

/** The keys of the open sentence. Held down, those that go somewhere go on; those that write do it once. */
export function deskKeys(session: DeskSession, acts: SheetActs, types: readonly TypeShown[]): KeyBinding[] {
  return [
    ...about('Go', [
      { ...shown('arrowright', 'next token', () => session.step(1, false), 'token'), caps: ['← →'] },
      quiet('arrowleft', 'previous token', () => session.step(-1, false)),
      shown('shift+arrowright', 'widen', () => session.step(1, true)),
      quiet('shift+arrowleft', 'narrow, or widen to the left', () => session.step(-1, true)),
      quiet(';', 'next word', () => session.stepWord(1)),
      quiet(':', 'previous word', () => session.stepWord(-1)),
      quiet('ctrl+arrowright', 'next name or figure', () => session.stepRun(1)),
      quiet('ctrl+arrowleft', 'previous name or figure', () => session.stepRun(-1)),
      quiet('ctrl+shift+arrowright', 'one character more, also within a word', () => session.stepCharacter(1)),
      quiet('ctrl+shift+arrowleft', 'one character less, also within a word', () => session.stepCharacter(-1)),
      quiet([')', 'ctrl+arrowdown'], 'next span or evidence', () => session.stepSpan(1)),
      quiet(['(', 'ctrl+arrowup'], 'previous span or evidence', () => session.stepSpan(-1)),
      quiet('home', 'first token', session.toFirst),
      quiet('end', 'last token', session.toLast),
      quiet('escape', 'only the token under the cursor', () => session.step(0, false)),
      quiet('arrowdown', 'next sentence', () => acts.stepSentence(1)),
      quiet('arrowup', 'previous sentence', () => acts.stepSentence(-1)),
    ]).map((binding) => ({ ...binding, repeats: true })),
    ...about('Mark', [
      ...types.filter((t) => t.key !== '').map((t) => quiet(t.key, markLabel(t.name), () => session.markAs(t.code))),
      { keys: [], caps: ['letter'], label: 'mark', run: () => undefined },
      quiet(',', 'mark as last time', session.markAgain),
      quiet('alt+arrowright', 'end of the span one token on', () => session.nudge('end', 1)),
      quiet('alt+arrowleft', 'end of the span one token back', () => session.nudge('end', -1)),
      quiet('alt+shift+arrowright', 'start of the span one token on', () => session.nudge('start', 1)),
      quiet('alt+shift+arrowleft', 'start of the span one token back', () => session.nudge('start', -1)),
      quiet('/', 'split the span before this word', session.splitHere),
      quiet('+', 'join the span with the next one', session.joinNext),
      quiet('*', 'mark all like this span', acts.alike),
    ]),
    ...about('Evidence', [
      shown('space', 'take the evidence', session.take, 'take'),
      quiet('shift+space', 'take all undisputed', session.takeAll),
      shown('-', 'turn down', session.turnDown),
      { ...shown('.', 'next gap', session.gap, 'gap'), repeats: true },
      ...EVERY_LANE.map(([name, label], i) => quiet(`alt+${i + 1}`, `show or hide ${label.toLowerCase()}`, () => toggleLane(name))),
    ]),
    ...about('Mark', [shown(['backspace', 'delete'], 'remove', session.remove)]),
    ...about('Sign', [
      shown('enter', 'sign and go on', session.sign, 'sign'),
      shown('shift+enter', 'take all undisputed and sign', session.takeAndSign, 'take, sign'),
      shown('ctrl+enter', 'sign as empty', session.signEmpty, 'empty'),
      quiet('ctrl+backspace', 'withdraw the signature', session.withdraw),
      quiet('!', 'ask the lead', acts.ask),
      quiet('ctrl+z', 'undo', acts.undo),
      quiet(['ctrl+shift+z', 'ctrl+y'], 'redo', acts.redo),
    ]),
    ...about('Look', [quiet('=', 'read the whole text', acts.read)]),
  ]
}
