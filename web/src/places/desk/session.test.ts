import { describe, expect, it } from 'vitest'

import type { DeskSentenceShown, TypeShown } from '../../api/schema'
import { found, NOTHING, PELLIN, sentence, VARNBY } from './fixture'
import { DeskSession, type Page, type World } from './session'
import { standingOf } from './standing'
import type { Stood } from './wishes'

const TYPES = ['VES', 'PRT'].map((code) => ({ code })) as TypeShown[]

/** A session without any page: what it does stands at once, and is written down. */
function at(shown: DeskSentenceShown, more: Partial<Page> = {}, sure = 0) {
  const done: { kind: string; before: Stood; after: Stood; verdicts: number }[] = []
  const told: string[] = []
  let went = 0
  let stands = standingOf([], 'p', 1, shown.annotation)
  let last: string | null = null
  const world: World = {
    standing: () => stands,
    hidden: () => [],
    sure: () => sure,
    lastType: () => last,
    remember: (type) => (last = type),
    put: ({ kind, verdicts }, before, after) => {
      done.push({ kind, before, after, verdicts: verdicts.length })
      stands = { ...after, turnedDown: after.turned_down }
    },
    tell: (words) => told.push(words),
  }
  const session = new DeskSession(world)
  const page: Page = { sentence: shown, isBare: false, types: TYPES, overlap: 'apart', refusal: undefined, goOn: () => (went += 1), ...more }
  session.connect(page, null)
  return { session, done, told, kinds: () => done.map(({ kind }) => kind), gold: () => stands.spans.map(({ start, type }) => `${start} ${type}`), went: () => went, page }
}

describe('a session at the Desk', () => {
  it('does several acts on what each of them leaves, without a page between them', () => {
    const { session, gold, kinds } = at(sentence(1))
    session.take()
    session.take()
    session.toFirst()
    session.markAs('PRT')
    session.remove()
    expect(kinds()).toEqual(['take', 'take', 'mark', 'remove'])
    expect(gold()).toEqual(['18 PRT'])
  })

  it('takes at once what is as likely as somebody wants it, where the pipeline weighs', () => {
    const other = found(18, 24, 'VES', { source: 'lists', probability: null })
    const weighed = sentence(1, {}, { weighs_from: 0.4, lanes: { lists: [PELLIN, other], tagger: [VARNBY] }, resolved: [{ ...PELLIN, probability: 0.93 }, { ...VARNBY, probability: 0.55 }] })
    const all = at(weighed)
    all.session.takeAll()
    expect(all.gold()).toEqual(['0 VES', '18 PRT'])
    const some = at(weighed, {}, 0.9)
    some.session.takeAndSign()
    // What is left to be looked at is not signed along.
    expect(some.gold()).toEqual(['0 VES'])
    expect(some.kinds()).toEqual(['take'])
    some.session.takeAll()
    expect(some.told.at(-1)).toBe('No evidence is left here that is as likely as you want it.')
    // Where nobody weighs, two sources that say otherwise are a dispute.
    const plain = at({ ...weighed, weighs_from: null })
    plain.session.takeAll()
    expect(plain.gold()).toEqual(['0 VES'])
  })

  it('takes and signs as one act, which knows what was before it', () => {
    const { session, done, went } = at(sentence(1))
    session.takeAndSign()
    expect(done.map(({ kind, before, after, verdicts }) => [kind, before.state, before.spans.length, after.state, after.spans.length, verdicts])).toEqual([['sign', 'untouched', 0, 'signed', 2, 2]])
    expect(went()).toBe(1)
  })

  it('takes but does not sign where a source with a say is left over', () => {
    const other = found(18, 24, 'VES', { source: 'rules' })
    const { session, kinds, told, went } = at(sentence(1, {}, { lanes: { lists: [PELLIN], rules: [other], tagger: [VARNBY] } }))
    session.takeAndSign()
    expect([kinds(), told, went()]).toEqual([['take'], ['Here gold and evidence differ: look at that before you sign.'], 0])
    expect(session.cursor.getState()).toEqual({ anchor: 4, head: 4 })
  })

  it('signs nothing unread, nor where nothing is', () => {
    const { session, told, done, went } = at(sentence(1, {}, { lanes: {}, resolved: [] }), { isBare: true })
    session.takeAndSign()
    session.sign()
    expect([told, done, went()]).toEqual([['Still looking up evidence here; one moment.', 'Nothing is marked here. Ctrl and enter sign the sentence as empty.'], [], 0])
  })

  it('goes on from what is signed already, and changes nothing', () => {
    const signed = sentence(1, { ...NOTHING, state: 'signed', spans: [PELLIN, VARNBY] })
    const { session, done, went } = at(signed)
    session.sign()
    session.takeAndSign()
    expect([done, went()]).toEqual([[], 2])
  })

  it('lets a reader look and move, and says so of the rest', () => {
    const { session, done, told, went } = at(sentence(1), { refusal: 'You are a reader here.' })
    session.step(1, false)
    session.markAs('VES')
    session.takeAndSign()
    expect([done, told, went()]).toEqual([[], ['You are a reader here.', 'You are a reader here.'], 0])
  })

  it('does nothing before its sentence has come', () => {
    const { session, done } = at(sentence(1), { sentence: undefined })
    session.markAs('VES')
    session.sign()
    session.take()
    session.stepRun(1)
    expect(done).toEqual([])
  })

  it('begins at the first gap; once more when the evidence comes, unless somebody has been at work', () => {
    const bare = sentence(1, {}, { lanes: {}, resolved: [] })
    const full = sentence(1, {}, { resolved: [VARNBY] })
    for (const work of [undefined, 'move', 'mark'] as const) {
      const { session, page } = at(bare, { isBare: true })
      if (work === 'move') session.step(1, false)
      if (work === 'mark') session.markAs('VES')
      session.connect({ ...page, sentence: full, isBare: false }, null)
      expect(session.cursor.getState().head).toBe(work === undefined ? 4 : work === 'move' ? 1 : 0)
    }
  })

  it('goes where a link says, and only once', () => {
    const { session, page } = at(sentence(1), { sentence: undefined })
    session.connect({ ...page, sentence: sentence(1) }, 18)
    expect(session.cursor.getState().head).toBe(4)
    session.toFirst()
    session.connect({ ...page, sentence: sentence(1) }, 18)
    expect(session.cursor.getState().head).toBe(0)
  })

  it('marks the last type again, if the scheme still has it', () => {
    const { session, gold, told, page } = at(sentence(1))
    session.markAgain()
    session.markAs('PRT')
    session.step(1, false)
    session.markAgain()
    expect(gold()).toEqual(['0 PRT', '7 PRT'])
    session.connect({ ...page, types: [] }, null)
    session.markAgain()
    expect(told).toHaveLength(2)
  })

  it('moves bounds with the cursor, and not past the sentence', () => {
    const { session, gold, told } = at(sentence(1))
    session.markAs('VES')
    session.nudge('end', 1)
    expect(session.cursor.getState()).toEqual({ anchor: 0, head: 1 })
    session.nudge('start', -1)
    expect(told).toEqual(['The span can go no further that way.'])
    expect(gold()).toEqual(['0 VES'])
  })
})
