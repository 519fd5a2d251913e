import { Box, Grid } from '@chakra-ui/react'
import type { ReactNode } from 'react'

import { hueColour } from '../parts/signs'

const signed = (value: number) => `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(2)}`
const BAR = { position: 'absolute', top: 1, bottom: 1 } as const

interface ContributionProps {
  value: number
  /** The largest of all values, without its sign: its bar fills half the width. */
  largest: number
  hue: number | undefined
  children: ReactNode
}

/** One contribution: its figure, and a bar to the right of the middle if it speaks for the span, to the left if against. */
export function Contribution({ value, largest, hue, children }: ContributionProps) {
  const width = `${(50 * Math.abs(value)) / largest}%`
  return (
    <Box borderTopWidth="1px" borderColor="hairline" py="0.5">
      <Grid templateColumns="var(--chakra-sizes-10) 1fr" gap="2">
        <Box fontVariantNumeric="tabular-nums" textAlign="right" color={value < 0 ? 'bad' : 'good'}>
          {signed(value)}
        </Box>
        <Box>{children}</Box>
      </Grid>
      <Box position="relative" h="1.5" aria-hidden="true">
        <Box position="absolute" insetY="0" left="50%" borderLeftWidth="1px" borderColor="third" />
        <div data-bar style={{ ...BAR, width, ...(value < 0 ? { right: '50%', background: 'var(--chakra-colors-bad)' } : { left: '50%', background: hueColour(hue) }) }} />
      </Box>
    </Box>
  )
}

export const largestOf = (values: readonly number[]) => Math.max(...values.map(Math.abs), Number.MIN_VALUE)
