import type { QueueItemShown } from '../../api/schema'
import type { PendingAct } from './outbox'

/** Which sentences of the queue are listed. */
export type Show = 'all' | 'open' | 'asked'

/** What stands in a queue. */
export interface Counts {
  total: number
  signed: number
  empty: number
  asked: number
}

export const isOpen = (item: QueueItemShown) => item.state !== 'signed'

export function count(items: readonly QueueItemShown[]): Counts & { firstOpen: number | undefined } {
  const counted = { total: items.length, signed: 0, empty: 0, asked: 0, firstOpen: undefined as number | undefined }
  for (const item of items) {
    counted.asked += Number(item.asked)
    if (isOpen(item)) counted.firstOpen ??= item.id
    else {
      counted.signed += 1
      counted.empty += Number(item.spans === 0)
    }
  }
  return counted
}

/** A queue with what is on its way to the server laid over it. */
export function laidOver(items: readonly QueueItemShown[], pending: readonly PendingAct[], project: string): readonly QueueItemShown[] {
  if (!pending.some((act) => act.project === project)) return items
  const last = new Map(pending.filter((act) => act.project === project).map((act) => [act.sentence, act.wish]))
  return items.map((item): QueueItemShown => {
    const wish = last.get(item.id)
    if (!wish) return item
    const { state, spans, question, answer } = wish
    return { ...item, state, spans: spans.length, asked: question !== '' && answer === '' }
  })
}

/** What is listed of a queue; the open sentence always, so that it does not vanish under one's hands. */
export function listed(items: readonly QueueItemShown[], show: Show, chosen: number | null): readonly QueueItemShown[] {
  if (show === 'all') return items
  return items.filter((item) => (show === 'open' ? isOpen(item) : item.asked) || item.id === chosen)
}

/** The next sentence after this one that is not signed; from one that is not in the queue, the queue's first. */
export function nextOpen(items: readonly QueueItemShown[], id: number): QueueItemShown | undefined {
  return items.slice(items.findIndex((item) => item.id === id) + 1).find(isOpen)
}


