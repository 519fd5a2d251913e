import type { QueryClient } from '@tanstack/react-query'

import { type Passage, queueQuery, roundsQuery, sentenceQuery } from './queries'

/** What the Desk goes through when somebody comes to it. */
export const BEGINNING: Omit<Passage, 'round'> = { split: '', show: 'all', order: { by: 'reading', seed: 1, turn: 0, search: null } }

/** Ask for what the Desk shows with this sentence open, where nobody has chosen a round. */
export function fetchDesk(client: QueryClient, project: string, id: number): Promise<unknown>[] {
  const passage = { ...BEGINNING, round: null }
  return [
    client.query(roundsQuery(project)),
    client.infiniteQuery(queueQuery(project, passage, id)),
    client.query(sentenceQuery(project, id)),
  ]
}
