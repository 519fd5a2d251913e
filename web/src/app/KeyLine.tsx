import { Fragment } from 'react'

import type { KeyBinding } from '../parts/keys'
import { shownCaps, useOwnKeys } from '../parts/ownKeys'
import { Cap } from '../parts/signs'

interface KeyLineProps {
  binding: KeyBinding
  dark?: boolean
  onRun: () => void
}

/** A key and what it does; a click does it too, for nothing depends on a keyboard. */
export function KeyLine({ binding, dark = false, onRun }: KeyLineProps) {
  const mine = useOwnKeys()
  // A hint at single keys would be untrue where they are off, or want alt.
  if (binding.keys.length === 0 && mine.singles !== 'plain') return null
  const caps = (
    <span>
      {(binding.keys.length === 0 ? binding.caps : shownCaps(binding, mine)).map((cap) => (
        <Fragment key={cap}>
          <Cap dark={dark}>{cap}</Cap>{' '}
        </Fragment>
      ))}
    </span>
  )
  const words = dark ? (binding.short ?? binding.label) : binding.label
  // Some only tell which keys there are.
  if (binding.keys.length === 0) {
    return (
      <div className="keyLine dark">
        {caps} {words}
      </div>
    )
  }
  return (
    <button
      type="button"
      className={dark ? 'keyLine dark' : 'keyLine'}
      title={binding.label}
      // Whoever goes by keys has the key itself; and the focus stays where the work is.
      tabIndex={-1}
      onMouseDown={(event) => event.preventDefault()}
      onClick={onRun}
    >
      {caps} {words}
    </button>
  )
}
