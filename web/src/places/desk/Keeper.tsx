import { Conflicts } from './Conflicts'
import { Line } from './Line'
import { SetAside } from './SetAside'
import { useOutboxEnds } from './useOutboxEnds'

/** Looks after acts on their way, wherever one is: sends them, and says what keeps them. */
export function Keeper() {
  useOutboxEnds()
  return (
    <>
      <Line />
      <SetAside />
      <Conflicts />
    </>
  )
}
