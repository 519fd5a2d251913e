import { Flex } from '@chakra-ui/react'

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
    <Flex as="span" gap="0.5">
      {(binding.keys.length === 0 ? binding.caps : shownCaps(binding, mine)).map((cap) => (
        <Cap key={cap} dark={dark}>
          {cap}
        </Cap>
      ))}
    </Flex>
  )
  const words = dark ? (binding.short ?? binding.label) : binding.label
  // Some only tell which keys there are.
  if (binding.keys.length === 0) {
    return (
      <Flex gap="1.5" align="center" flexShrink="0">
        {caps} {words}
      </Flex>
    )
  }
  return (
    <Flex
      as="button"
      gap="1.5"
      align="center"
      flexShrink={dark ? '0' : '1'}
      cursor="pointer"
      textAlign="left"
      title={binding.label}
      _hover={{ textDecoration: 'underline' }}
      // Whoever goes by keys has the key itself; and the focus stays where the work is.
      tabIndex={-1}
      onMouseDown={(event) => event.preventDefault()}
      onClick={onRun}
    >
      {caps} {words}
    </Flex>
  )
}
