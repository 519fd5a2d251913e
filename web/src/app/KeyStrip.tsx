import { Flex } from '@chakra-ui/react'
import { useEffect, useMemo } from 'react'

import { activeBindings, handleKey, runKey, useKeys, useKeyStore } from '../parts/keys'
import { Cap } from '../parts/signs'
import { KeyLine } from './KeyLine'

/** The keys that work now, along the bottom. */
export function KeyStrip({ onHelp, onGuide }: { onHelp: () => void; onGuide: () => void }) {
  useKeys([
    { keys: ['?'], caps: ['?'], label: 'all keys', run: onHelp, quiet: true },
    { keys: ['f1'], caps: ['F1'], label: 'guide', run: onGuide, quiet: true, inFields: true },
  ])
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
      <button type="button" className="keyLine dark" onClick={onHelp}>
        <Cap dark>?</Cap> all keys
      </button>
      <button type="button" className="keyLine dark" onClick={onGuide}>
        <Cap dark>F1</Cap> guide
      </button>
    </Flex>
  )
}
