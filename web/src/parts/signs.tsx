import { Box, Flex, Progress } from '@chakra-ui/react'
import type { ReactNode } from 'react'

import { HUES } from '../theme/system'

/** A hue's place on the wheel. */
export function wheel(hue: number): number {
  return ((hue % HUES) + HUES) % HUES
}

/** The colour token of a type's hue. */
export function hueToken(hue: number): string {
  return `hue.${wheel(hue)}`
}

/** The colour of a type's hue, for plain elements. */
export function hueColour(hue: number | undefined): string {
  return hue === undefined ? 'var(--chakra-colors-second)' : `var(--chakra-colors-hue-${wheel(hue)})`
}

/** A type's letters in its hue. */
export function TypeCode({ code, hue }: { code: string; hue: number | undefined }) {
  return <b style={{ color: hueColour(hue) }}>{code}</b>
}

/** A key cap. */
export function Cap({ children, dark = false }: { children: ReactNode; dark?: boolean }) {
  return <kbd className={dark ? 'cap dark' : 'cap'}>{children}</kbd>
}

const STATE_NAMES: Record<string, string> = {
  untouched: 'untouched',
  draft: 'begun, not signed',
  signed: 'signed',
}

/** How far a sentence is: an empty ring, a half-filled one, a full one. */
export function StateSign({ state }: { state: string }) {
  return (
    <svg className={`stateSign ${state}`} width="11" height="11" viewBox="0 0 12 12" role="img" aria-label={STATE_NAMES[state] ?? state}>
      {state === 'signed' ? (
        <circle cx="6" cy="6" r="5" fill="currentColor" />
      ) : (
        <circle cx="6" cy="6" r="4.5" fill="none" stroke="currentColor" strokeWidth="1.2" />
      )}
      {state === 'draft' && <path d="M6 1.5a4.5 4.5 0 0 0 0 9z" fill="currentColor" />}
    </svg>
  )
}

/** Green, red or neutral: does it hold? Said in words too. */
export function HoldSign({ holds }: { holds: boolean | undefined }) {
  const name = holds === undefined ? 'not tried' : holds ? 'holds' : 'fails'
  return (
    <Box asChild color={holds === undefined ? 'third' : holds ? 'good' : 'bad'} flexShrink="0" mt="1.5">
      <svg width="10" height="10" viewBox="0 0 10 10" role="img" aria-label={name}>
        {holds === false ? (
          <path d="M1.5 1.5l7 7m0-7l-7 7" stroke="currentColor" strokeWidth="2" />
        ) : (
          <circle cx="5" cy="5" r="4" fill={holds ? 'currentColor' : 'none'} stroke="currentColor" />
        )}
      </svg>
    </Box>
  )
}

/** Done of all, as a thin line. */
export function Meter({ done, all, label, gold = false }: { done: number; all: number; label: string; gold?: boolean }) {
  return (
    <Progress.Root variant={gold ? 'subtle' : 'outline'} value={Math.min(done, all)} max={Math.max(1, all)}>
      <Progress.Track aria-label={label}>
        <Progress.Range />
      </Progress.Track>
    </Progress.Root>
  )
}

/** Two columns: what, and how much or which. */
export function Facts({ facts }: { facts: readonly (readonly [string, ReactNode])[] }) {
  return (
    <Flex as="dl" direction="column" gap="1">
      {facts.map(([name, value]) => (
        <Flex key={name} justify="space-between" gap="3">
          <Box as="dt" color="second">
            {name}
          </Box>
          <Box as="dd" textAlign="right" fontVariantNumeric="tabular-nums">
            {value}
          </Box>
        </Flex>
      ))}
    </Flex>
  )
}
