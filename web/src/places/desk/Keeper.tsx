import { later } from '../../parts/later'
import { Line } from './Line'
import { useOutbox } from './outbox'
import { useOutboxEnds } from './useOutboxEnds'

const Conflicts = later(async () => (await import('./Conflicts')).Conflicts)
const SetAside = later(async () => (await import('./SetAside')).SetAside)

/** Looks after acts on their way, wherever one is: sends them, and says what keeps them. */
export function Keeper() {
  useOutboxEnds()
  const isAside = useOutbox((s) => s.aside.length > 0)
  const isTwofold = useOutbox((s) => s.conflicts.length > 0)
  return (
    <>
      <Line />
      {isAside && <SetAside />}
      {isTwofold && <Conflicts />}
    </>
  )
}
