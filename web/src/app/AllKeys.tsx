import { Box, Flex } from '@chakra-ui/react'
import { useEffect, useState } from 'react'

import { ChoiceField, LinkAct, QuietAct } from '../parts/controls'
import { activeBindings, type KeyBinding, pressed, runKey, useKeyStore } from '../parts/keys'
import { Heading } from '../parts/layout'
import { capsOf, isSingle, keysOf, type OwnKeys, STANDARD, useOwnKeys } from '../parts/ownKeys'
import { Window } from '../parts/Window'
import { KeyLine } from './KeyLine'
import { useSetKeys } from './useAccountKeys'

/** Bindings by topic, those about nothing in particular last. */
function byTopic(bindings: readonly KeyBinding[]): Map<string, KeyBinding[]> {
  const named = [...new Set(bindings.flatMap(({ topic }) => topic ?? []))]
  const all = new Map([...named, ''].map((topic) => [topic, bindings.filter((binding) => (binding.topic ?? '') === topic)]))
  if (all.get('')?.length === 0) all.delete('')
  return all
}

const SINGLES: readonly { value: OwnKeys['singles']; label: string }[] = [
  { value: 'plain', label: 'work alone' },
  { value: 'alt', label: 'work with alt' },
  { value: 'off', label: 'are off' },
]

/** Every key of the page below, and which of them are to be others. */
export function AllKeys({ onClose }: { onClose: () => void }) {
  const layers = useKeyStore((s) => s.layers)
  const below = layers.filter((layer) => layer.level === 0)
  // Those without a key only tell the strip's readers that there are keys.
  const bindings = activeBindings(below).filter(({ keys }) => keys.length > 0)
  const topics = byTopic(bindings)
  const mine = useOwnKeys()
  const set = useSetKeys()
  const [changing, setChanging] = useState(false)
  const [asked, setAsked] = useState<KeyBinding | null>(null)
  const run = (binding: KeyBinding) => {
    onClose()
    runKey(binding.keys[0], below)
  }
  const setOwn = (label: string, key: string | undefined) => {
    const others = Object.fromEntries(Object.entries(mine.own).filter(([name]) => name !== label))
    void set({ ...mine, own: key === undefined ? others : { ...others, [label]: key } })
    setAsked(null)
  }
  const isChanged = mine.singles !== STANDARD.singles || Object.keys(mine.own).length > 0
  return (
    <Window
      title="All keys"
      wide={topics.size > 1}
      reads
      onClose={onClose}
      footer={
        <>
          {changing && isChanged && <QuietAct onClick={() => void set(STANDARD)}>standard keys</QuietAct>}
          <QuietAct onClick={() => setChanging(!changing)}>{changing ? 'done' : 'change keys'}</QuietAct>
        </>
      }
    >
      {changing && (
        <Flex gap="6" align="flex-start" mb="3">
          <Box w="44">
            <ChoiceField label="single characters" value={mine.singles} options={SINGLES} onChange={(singles) => void set({ ...mine, singles: singles as OwnKeys['singles'] })} />
          </Box>
          <Box color="second" fontSize="small" pt="5">
            Your keys are saved with your account. A key of your own works whatever single characters do.
          </Box>
        </Flex>
      )}
      {asked && <Capture binding={asked} others={bindings} onKey={(key) => setOwn(asked.label, key)} onCancel={() => setAsked(null)} />}
      <Box columnCount={{ base: 1, lg: topics.size > 1 ? (changing ? 2 : 3) : 1 }} columnGap="6" pb="3">
        {[...topics].map(([topic, held]) => (
          <Box key={topic} as="section" aria-label={topic || undefined} mb="3" breakInside="avoid">
            {topic && <Heading>{topic}</Heading>}
            {held.map((binding) => (
              <Flex key={binding.label} mb="1" gap="3" justify="space-between">
                <KeyLine binding={binding} onRun={() => run(binding)} />
                {changing && (
                  <Flex gap="3" flexShrink="0" fontSize="small">
                    <LinkAct aria-label={`change the key for ${binding.label}`} onClick={() => setAsked(binding)}>
                      change
                    </LinkAct>
                    {mine.own[binding.label] === undefined ? (
                      keysOf(binding, mine).length > 0 && (
                        <LinkAct aria-label={`switch off the key for ${binding.label}`} onClick={() => setOwn(binding.label, '')}>
                          off
                        </LinkAct>
                      )
                    ) : (
                      <LinkAct aria-label={`standard key for ${binding.label}`} onClick={() => setOwn(binding.label, undefined)}>
                        standard
                      </LinkAct>
                    )}
                  </Flex>
                )}
              </Flex>
            ))}
          </Box>
        ))}
      </Box>
    </Window>
  )
}

const MODIFIERS = ['shift', 'control', 'alt', 'meta', 'altgraph', 'capslock', 'dead']

interface CaptureProps {
  binding: KeyBinding
  others: readonly KeyBinding[]
  onKey: (key: string) => void
  onCancel: () => void
}

/** Waits for the key that is to do it. */
function Capture({ binding, others, onKey, onCancel }: CaptureProps) {
  const [taken, setTaken] = useState('')
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      // Nobody else hears it: the window would close, or an act be done.
      event.preventDefault()
      event.stopImmediatePropagation()
      if (MODIFIERS.includes(event.key.toLowerCase())) return
      if (event.key === 'Escape') {
        onCancel()
        return
      }
      const key = pressed(event)
      const holder = others.find((other) => other.label !== binding.label && keysOf(other, useOwnKeys.getState()).includes(key))
      if (holder) setTaken(`${capsOf(key).join(' ')} is the key for “${holder.label}”. Press another.`)
      else if (key === 'tab') setTaken('Tab goes from one part of the page to the next. Press another.')
      else onKey(key)
    }
    window.addEventListener('keydown', hear, true)
    return () => window.removeEventListener('keydown', hear, true)
  }, [binding, others, onKey, onCancel])
  return (
    <Box role="status" bg="goldGround" px="3" py="2" mb="3">
      Press the key for “{binding.label}”; esc cancels. {isSingle(binding.keys[0] ?? '') && 'With ctrl or alt it cannot be pressed by accident. '}
      {taken && (
        <Box as="span" color="bad" role="alert">
          {taken}
        </Box>
      )}
    </Box>
  )
}
