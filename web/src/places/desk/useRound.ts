import { useQuery } from '@tanstack/react-query'

import { meQuery, useProject } from '../../api/project'
import type { RoundShown } from '../../api/schema'
import { roundsQuery } from './queries'
import { useDeskSettings } from './settings'

/** Where somebody works who has not chosen: in the first open round that asks them and is not signed throughout. */
export function roundFor(rounds: readonly RoundShown[], person: number): number | null {
  const asks = (round: RoundShown) => round.open && round.signed < round.sentences && round.people.some(({ id }) => id === person)
  return rounds.find(asks)?.id ?? null
}

/** The number of the round that is worked in, null for none; undefined until that is known. */
export function useRound(): number | null | undefined {
  const project = useProject()
  const chosen = useDeskSettings((settings) => settings.rounds[project])
  const me = useQuery(meQuery).data
  const { data, isFetched } = useQuery(roundsQuery(project))
  // A round that was removed since is none.
  if (chosen !== undefined && chosen !== null && data && !data.rounds.some(({ id }) => id === chosen)) return null
  if (chosen !== undefined) return chosen
  if (data) return me && roundFor(data.rounds, me.id)
  // Refused once is enough to go on without: the Desk does not vanish while it is asked again.
  return isFetched ? null : undefined
}
