import { Box, Flex } from '@chakra-ui/react'
import { useEffect, useMemo } from 'react'

import { activeBindings, handleKey, type KeyBinding, runKey, useKeys, useKeyStore } from '../parts/keys'
import { Heading } from '../parts/layout'
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
      {/* Readers of screens have each of them once: on the page itself, or under all keys. One that does not fit goes to a
          line that is not seen. */}
      <Flex flex="1" minW="0" h="6" columnGap="4" wrap="wrap" alignContent="flex-start" overflow="hidden" css={{ '& > *': { height: '6' } }} aria-hidden>
        {shown.map((binding) => (
          <KeyLine key={binding.label} binding={binding} dark onRun={() => runKey(binding.keys[0], useKeyStore.getState().layers)} />
        ))}
      </Flex>
      <Flex as="button" gap="1.5" align="center" cursor="pointer" flexShrink="0" onClick={onHelp}>
        <Cap dark>?</Cap> all keys
      </Flex>
    </Flex>
  )
}

interface KeyLineProps {
  binding: KeyBinding
  dark?: boolean
  onRun: () => void
}

/** A key and what it does; a click does it too, for nothing depends on a keyboard. */
function KeyLine({ binding, dark = false, onRun }: KeyLineProps) {
  const caps = (
    <Flex as="span" gap="0.5">
      {binding.caps.map((cap) => (
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
      flexShrink="0"
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

/** Bindings by topic, those about nothing in particular last. */
function byTopic(bindings: readonly KeyBinding[]): Map<string, KeyBinding[]> {
  const named = [...new Set(bindings.flatMap(({ topic }) => topic ?? []))]
  const all = new Map([...named, ''].map((topic) => [topic, bindings.filter((binding) => (binding.topic ?? '') === topic)]))
  if (all.get('')?.length === 0) all.delete('')
  return all
}

/** Every key of the page below. */
export function AllKeys({ onClose }: { onClose: () => void }) {
  const layers = useKeyStore((s) => s.layers)
  const below = layers.filter((layer) => layer.level === 0)
  // Those without a key only tell the strip's readers that there are keys.
  const topics = byTopic(activeBindings(below).filter(({ keys }) => keys.length > 0))
  const run = (binding: KeyBinding) => {
    onClose()
    runKey(binding.keys[0], below)
  }
  return (
    <Window title="All keys" wide={topics.size > 1} reads onClose={onClose}>
      <Box columnCount={{ base: 1, lg: topics.size > 1 ? 3 : 1 }} columnGap="6" pb="3">
        {[...topics].map(([topic, bindings]) => (
          <Box key={topic} as="section" aria-label={topic || undefined} mb="3" breakInside="avoid">
            {topic && <Heading>{topic}</Heading>}
            {bindings.map((binding) => (
              <Box key={binding.label} mb="1">
                <KeyLine binding={binding} onRun={() => run(binding)} />
              </Box>
            ))}
          </Box>
        ))}
      </Box>
    </Window>
  )
}
