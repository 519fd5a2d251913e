import type { QueueCounts, QueueItemShown } from '../../api/schema'
import type { PendingAct } from './outbox'

/** How far a sentence is. */
export type Standing = Pick<QueueItemShown, 'state' | 'spans' | 'asked'>

export const isOpen = (item: Pick<QueueItemShown, 'state'>) => item.state !== 'signed'

/** Counts once a sentence stands otherwise. */
export function moved(counts: QueueCounts, from: Standing, to: Standing): QueueCounts {
  const by = (holds: (one: Standing) => boolean) => Number(holds(to)) - Number(holds(from))
  return {
    ...counts,
    signed: counts.signed + by((one) => !isOpen(one)),
    empty: counts.empty + by((one) => !isOpen(one) && one.spans === 0),
    asked: counts.asked + by((one) => one.asked),
  }
}

/** How sentences will stand once what is on its way has arrived. */
export function onTheirWay(pending: readonly PendingAct[], project: string): ReadonlyMap<number, Standing> {
  const own = pending.filter((act) => act.project === project)
  return new Map(
    own.map(({ sentence, wish: { state, spans, question, answer } }) => [
      sentence,
      { state, spans: spans.length, asked: question !== '' && answer === '' },
    ]),
  )
}

/** Sentences of the queue as they will stand. */
export function laidOver(items: readonly QueueItemShown[], coming: ReadonlyMap<number, Standing>): readonly QueueItemShown[] {
  if (coming.size === 0) return items
  return items.map((item): QueueItemShown => {
    const standing = coming.get(item.id)
    return standing ? { ...item, ...standing } : item
  })
}

/** What is listed of these; the open sentence always, so that it does not vanish under one's hands. */
export function listed(items: readonly QueueItemShown[], show: 'all' | 'open' | 'asked', chosen: number | null): readonly QueueItemShown[] {
  if (show === 'all') return items
  return items.filter((item) => (show === 'open' ? isOpen(item) : item.asked) || item.id === chosen)
}

/** The next sentence after this one that is not signed; from one that is not among these, the first. */
export function nextOpen(items: readonly QueueItemShown[], id: number): QueueItemShown | undefined {
  return items.slice(items.findIndex((item) => item.id === id) + 1).find(isOpen)
}
