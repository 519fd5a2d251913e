import { Flex } from '@chakra-ui/react'
import { useEffect, useMemo } from 'react'

import { activeBindings, handleKey, type KeyBinding, useKeys, useKeyStore } from '../parts/keys'
import { Cap } from '../parts/signs'
import { Window } from '../parts/Window'

/** The keys that work now, along the bottom. */
export function KeyStrip({ onHelp }: { onHelp: () => void }) {
  useKeys([{ keys: ['?'], caps: ['?'], label: 'all keys', run: onHelp, quiet: true }])
  const { layers, turn } = useKeyStore()
  useEffect(() => {
    window.addEventListener('keydown', handleKey)
    return () => window.removeEventListener('keydown', handleKey)
  }, [])
  // `turn` rises when a layer's keys look different.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const shown = useMemo(() => activeBindings(layers).filter((b) => !b.quiet), [layers, turn])
  return (
    <Flex as="footer" bg="bar" color="onBarSecond" align="center" px="3.5" gap="4" fontSize="small" overflow="hidden" whiteSpace="nowrap">
      <Flex flex="1" minW="0" gap="4" overflow="hidden">
        {shown.map((binding) => (
          <KeyLine key={binding.label} binding={binding} dark />
        ))}
      </Flex>
      <Flex as="button" gap="1.5" align="center" cursor="pointer" flexShrink="0" onClick={onHelp}>
        <Cap dark>?</Cap> all keys
      </Flex>
    </Flex>
  )
}

function KeyLine({ binding, dark = false }: { binding: KeyBinding; dark?: boolean }) {
  return (
    <Flex gap="1.5" align="center" flexShrink="0">
      <Flex gap="0.5">
        {binding.caps.map((cap) => (
          <Cap key={cap} dark={dark}>
            {cap}
          </Cap>
        ))}
      </Flex>
      {dark ? (binding.short ?? binding.label) : binding.label}
    </Flex>
  )
}

/** Every key of the page below. */
export function AllKeys({ onClose }: { onClose: () => void }) {
  const layers = useKeyStore((s) => s.layers)
  const bindings = activeBindings(layers.filter((layer) => layer.level === 0))
  return (
    <Window title="All keys" reads onClose={onClose}>
      <Flex direction="column" gap="1.5" pb="4">
        {bindings.map((binding) => (
          <KeyLine key={binding.label} binding={binding} />
        ))}
      </Flex>
    </Window>
  )
}
