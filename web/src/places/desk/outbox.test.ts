import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { ProblemError, UnreachableError } from '../../api/client'
import { keptActs } from './actStore'
import { clearAside, flush, lastPending, MOST_FAILURES, nextVersion, open, type OutboxEnds, type PendingAct, put, RETRY_MS, settle, useOutbox } from './outbox'

const NOTHING_ELSE = { turned_down: [], question: '', answer: '' }
let count = 0
function act(sentence: number, version: number, types: string[] = []): PendingAct {
  const spans = types.map((type, i) => ({ start: i, end: i + 1, type }))
  const wish = { ...NOTHING_ELSE, kind: 'mark', state: 'draft', version, spans, verdicts: [], token: `t${++count}` }
  return { project: 'p', account: 1, sentence, wish, turn: count }
}

const answer = (a: PendingAct) => ({
  sentence: a.sentence, annotation: { ...NOTHING_ELSE, state: a.wish.state, version: a.wish.version + 1, spans: [] }, left: false,
})
const stale = new ProblemError(409, {
  type: 'urn:urdaten:stale-write',
  detail: 'Somebody else changed this.',
  theirs: { state: 'signed', version: 5, by: 'Jo', spans: [[0, 3, 'PRT']], question: 'a ship?' },
})

/** Ends that throw on any call a test has not asked for. */
function ends(more: Partial<OutboxEnds>): OutboxEnds {
  const unasked = (name: string) => () => {
    throw new Error(`${name} was called`)
  }
  return { send: unasked('send'), arrived: () => undefined, refused: unasked('refused'), overtaken: () => undefined, ...more }
}

const waiting = () => useOutbox.getState().pending.map((a) => a.wish.token)

const kept = async () => (await keptActs(1)).map((a) => a.wish.token)

/** As when the page is left and another one opened: what is in memory is gone. */
async function newPage(): Promise<void> {
  open(99, ends({}))
  await flush()
}

beforeEach(async () => {
  // The browser's storage keeps its own time.
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  localStorage.clear()
  await newPage()
})
afterEach(async () => {
  useOutbox.setState({ conflicts: [], aside: [] })
  for (const account of [1, 2]) {
    open(account, ends({ send: (a) => Promise.resolve(answer(a)) }))
    await flush()
  }
  expect(await kept()).toEqual([])
  vi.useRealTimers()
})

describe('outbox', () => {
  it('sends in order and keeps nothing that has arrived', async () => {
    const sent: string[] = []
    const arrived = vi.fn()
    open(1, ends({ send: (a) => (sent.push(a.wish.token), Promise.resolve(answer(a))), arrived }))
    const acts = [act(1, 0), act(1, 1), act(2, 0)]
    acts.forEach(put)
    await flush()
    expect(sent).toEqual(acts.map((a) => a.wish.token))
    expect(arrived).toHaveBeenCalledTimes(3)
    expect(waiting()).toEqual([])
    expect(await kept()).toEqual([])
  })

  it('holds acts while the server is away, says so, and tries again', async () => {
    let away = true
    open(1, ends({ send: (a) => (away ? Promise.reject(new UnreachableError()) : Promise.resolve(answer(a))) }))
    put(act(1, 0))
    await vi.waitFor(() => expect(useOutbox.getState().line).toBe('away'))
    await vi.advanceTimersByTimeAsync(RETRY_MS * 2)
    expect(useOutbox.getState().line).toBe('away')
    expect(waiting()).toHaveLength(1)
    away = false
    await vi.advanceTimersByTimeAsync(RETRY_MS)
    expect(useOutbox.getState()).toMatchObject({ line: 'open', pending: [] })
  })

  it('takes up what an earlier page of the same account left behind, in its order and before anything new', async () => {
    open(1, ends({ send: () => Promise.reject(new ProblemError(401, {})) }))
    const acts = [act(1, 0), act(1, 1), act(2, 0)]
    acts.slice(0, 2).forEach(put)
    await flush()
    expect(await kept()).toEqual(acts.slice(0, 2).map((a) => a.wish.token))
    await newPage()
    expect(waiting()).toEqual([])
    const sent: string[] = []
    open(1, ends({ send: (a) => (sent.push(a.wish.token), Promise.resolve(answer(a))) }))
    put(acts[2] as PendingAct)
    await flush()
    expect(sent).toEqual(acts.map((a) => a.wish.token))
  })

  it('keeps an act from the moment it is put in: a page left in the same breath loses nothing', async () => {
    open(1, ends({ send: () => Promise.reject(new ProblemError(401, {})) }))
    await flush()
    const mine = act(1, 0)
    // The browser's database never comes to it.
    const write = vi.spyOn(IDBDatabase.prototype, 'transaction').mockImplementation(() => {
      throw new DOMException('The page is gone.', 'AbortError')
    })
    put(mine)
    const left = Object.keys(localStorage).map((key): [string, string] => [key, localStorage.getItem(key) ?? ''])
    await flush()
    await newPage()
    write.mockRestore()
    localStorage.clear()
    for (const [key, value] of left) localStorage.setItem(key, value)
    const sent: string[] = []
    open(1, ends({ send: (a) => (sent.push(a.wish.token), Promise.resolve(answer(a))) }))
    await flush()
    expect(sent).toEqual([mine.wish.token])
    await vi.waitFor(() => expect(localStorage.length).toBe(0))
  })

  it('takes up what an older Urdaten kept elsewhere', async () => {
    const mine = act(1, 0)
    const { turned_down, question, answer: none, verdicts, ...wish } = mine.wish
    expect([turned_down, question, none, verdicts]).toEqual([[], '', '', []])
    localStorage.setItem('urdaten.outbox.1', JSON.stringify([{ ...mine, wish }]))
    const sent: PendingAct[] = []
    open(1, ends({ send: (a) => (sent.push(a), Promise.resolve(answer(a))) }))
    await flush()
    expect(sent.map((a) => a.wish)).toEqual([mine.wish])
    await vi.waitFor(() => expect(localStorage.length).toBe(0))
  })

  it('neither sends nor loses what another account left behind', async () => {
    open(1, ends({ send: () => Promise.reject(new ProblemError(401, {})) }))
    const mine = act(1, 0)
    put(mine)
    await flush()
    const sent: string[] = []
    const send = (a: PendingAct) => (sent.push(a.wish.token), Promise.resolve(answer(a)))
    open(2, ends({ send }))
    const others = { ...act(2, 0), account: 2 }
    put(others)
    await flush()
    expect(sent).toEqual([others.wish.token])
    open(1, ends({ send }))
    await flush()
    expect(sent).toEqual([others.wish.token, mine.wish.token])
  })

  it('is not stopped by storage that holds nonsense', async () => {
    localStorage.setItem('urdaten.outbox.1', '{broken')
    localStorage.setItem('urdaten.act.1.7', '{broken')
    open(1, ends({}))
    await flush()
    expect(waiting()).toEqual([])
    expect(localStorage.getItem('urdaten.act.1.7')).toBeNull()
  })

  it('drops what the server refuses for good, with all that was built on it', async () => {
    const refused = vi.fn()
    const bad = new ProblemError(422, { type: 'urn:urdaten:bad-span', detail: 'no' })
    open(1, ends({ send: (a) => (a.sentence === 1 ? Promise.reject(bad) : Promise.resolve(answer(a))), refused }))
    const first = act(1, 0)
    ;[first, act(1, 1), act(2, 0)].forEach(put)
    await flush()
    expect(refused.mock.calls.map(([a, fault]: unknown[]) => [(a as PendingAct).wish.token, fault])).toEqual([[first.wish.token, bad]])
    expect(waiting()).toEqual([])
    // It is told until it has been read, also on the next page.
    const told = [{ project: 'p', sentence: 1, kinds: ['mark', 'mark'], why: 'no' }]
    expect(useOutbox.getState().aside).toEqual(told)
    await newPage()
    open(1, ends({}))
    expect(useOutbox.getState().aside).toEqual(told)
    clearAside()
    await newPage()
    open(1, ends({}))
    expect(useOutbox.getState().aside).toEqual([])
  })

  it('sets an act aside that the server fails on again and again, and lets the rest go on', async () => {
    const fault = new ProblemError(500, { detail: 'Something unforeseen went wrong.' })
    let tries = 0
    open(1, ends({ send: (a) => (a.sentence === 1 ? (tries++, Promise.reject(fault)) : Promise.resolve(answer(a))), refused: () => undefined }))
    ;[act(1, 0), act(2, 0)].forEach(put)
    await vi.waitFor(() => expect(useOutbox.getState().line).toBe('busy'))
    await vi.advanceTimersByTimeAsync(MOST_FAILURES * RETRY_MS)
    await vi.waitFor(() => expect(waiting()).toEqual([]))
    expect(tries).toBe(MOST_FAILURES)
    expect(waiting()).toEqual([])
    expect(useOutbox.getState().aside.map(({ sentence, why }) => [sentence, why])).toEqual([[1, 'Something unforeseen went wrong.']])
  })

  it.each([
    [null, 'away'],
    [502, 'away'],
    [503, 'busy'],
    [429, 'busy'],
    [401, 'signed out'],
  ])('says why acts wait when the status is %s: %s', async (status, line) => {
    const error = status === null ? new UnreachableError() : new ProblemError(status, {})
    let fails = true
    open(1, ends({ send: (a) => (fails ? Promise.reject(error) : Promise.resolve(answer(a))) }))
    put(act(1, 0))
    await vi.waitFor(() => expect(useOutbox.getState().line).toBe(line))
    expect(await kept()).toHaveLength(1)
    fails = false
    await Promise.all([flush(), vi.advanceTimersByTimeAsync(RETRY_MS)])
    expect(useOutbox.getState()).toMatchObject({ line: 'open', pending: [], aside: [] })
  })

  describe('when somebody else wrote first', () => {
    const question = (sentence: number, version: number): PendingAct => {
      const { wish, ...rest } = act(sentence, version)
      return { ...rest, wish: { ...wish, kind: 'ask', question: 'a tug?' } }
    }
    const sendsOnTop = (sent: PendingAct[]) => (a: PendingAct) => (sent.push(a), a.sentence === 2 || a.wish.version >= 5 ? Promise.resolve(answer(a)) : Promise.reject(stale))

    it('asks, tells the page what stands, and lets the rest go on', async () => {
      const sent: PendingAct[] = []
      const overtaken = vi.fn()
      open(1, ends({ send: sendsOnTop(sent), overtaken }))
      ;[act(1, 0, ['VES']), act(1, 1, ['VES', 'ORG']), act(2, 0)].forEach(put)
      await flush()
      const theirs = { ...NOTHING_ELSE, question: 'a ship?', state: 'signed', version: 5, by: 'Jo', spans: [{ start: 0, end: 3, type: 'PRT' }] }
      const [conflict] = useOutbox.getState().conflicts
      expect(conflict?.theirs).toEqual(theirs)
      expect(conflict?.acts.map((a) => a.wish.spans.map((s) => s.type))).toEqual([['VES'], ['VES', 'ORG']])
      expect(overtaken.mock.calls.map(([, told]) => told as unknown)).toEqual([theirs])
      expect(sent.map((a) => a.sentence)).toEqual([1, 2])
      expect(waiting()).toEqual([])
    })

    it('can put all of mine on top: marks, verdicts and question', async () => {
      const sent: PendingAct[] = []
      open(1, ends({ send: sendsOnTop(sent) }))
      const verdict = { start: 0, end: 1, type: 'VES', source: 'lists', maker: '', taken: true }
      const first = act(1, 0, ['VES'])
      ;[{ ...first, wish: { ...first.wish, verdicts: [verdict] } }, question(1, 1)].forEach(put)
      await flush()
      settle(true)
      await flush()
      const [, marks, asked] = sent.map((a) => a.wish)
      expect([marks?.kind, marks?.version, marks?.spans.length, marks?.verdicts, marks?.question]).toEqual(['mark', 5, 1, [verdict], 'a ship?'])
      expect([asked?.kind, asked?.version, asked?.question, asked?.spans]).toEqual(['ask', 6, 'a tug?', marks?.spans])
      expect(useOutbox.getState()).toMatchObject({ conflicts: [], pending: [] })
    })

    it('leaves their spans where mine was a question alone', async () => {
      const sent: PendingAct[] = []
      open(1, ends({ send: sendsOnTop(sent) }))
      put(question(1, 0))
      await flush()
      settle(true)
      await flush()
      expect(sent[1]?.wish).toMatchObject({ kind: 'ask', state: 'signed', spans: [{ type: 'PRT' }], question: 'a tug?' })
    })

    it('makes an act of an undo of mine', async () => {
      const sent: PendingAct[] = []
      open(1, ends({ send: sendsOnTop(sent) }))
      put({ ...act(1, 0, ['VES']), travel: { way: 'undo', of: 't0' } })
      await flush()
      settle(true)
      await flush()
      expect(sent[1]?.travel).toBeUndefined()
      expect(sent[1]?.wish).toMatchObject({ kind: 'change', version: 5, spans: [{ type: 'VES' }] })
    })

    it('keeps the choice from page to page, until it is made', async () => {
      open(1, ends({ send: () => Promise.reject(stale) }))
      put(act(1, 0, ['VES']))
      await flush()
      await newPage()
      expect(useOutbox.getState().conflicts).toEqual([])
      open(1, ends({}))
      expect(useOutbox.getState().conflicts).toHaveLength(1)
      settle(false)
      await newPage()
      open(1, ends({}))
      expect(useOutbox.getState().conflicts).toEqual([])
    })

    it('lets theirs stand when asked to', async () => {
      const send = vi.fn(() => Promise.reject(stale))
      open(1, ends({ send }))
      put(act(1, 0))
      await flush()
      settle(false)
      await flush()
      expect(send).toHaveBeenCalledTimes(1)
      expect(useOutbox.getState().conflicts).toEqual([])
    })
  })
})

describe('versions', () => {
  it('count on from the last act on its way', () => {
    const pending = [act(1, 3), act(1, 4), act(2, 9)]
    expect(nextVersion(pending, 'p', 1, 3)).toBe(5)
    expect(nextVersion(pending, 'p', 7, 2)).toBe(2)
    expect(lastPending(pending, 'p', 1)).toBe(pending[1])
    expect(lastPending(pending, 'other', 1)).toBeUndefined()
  })
})
