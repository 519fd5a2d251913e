import { Box } from '@chakra-ui/react'
import type { UseQueryResult } from '@tanstack/react-query'

import { messageOf } from '../api/client'
import type { WeighedShown } from '../api/schema'
import { plural, score } from '../parts/words'
import { Contribution, largestOf } from './Contributions'

/** So many of what adds are told one by one. */
const TOLD = 12

/** What speaks for a span and what against it, where a pipeline weighs; it adds up to the span's log odds. */
export function Weighed({ query, type, hue }: { query: UseQueryResult<WeighedShown>; type: string; hue: number | undefined }) {
  if (query.isError) {
    return (
      <Box color="bad" role="alert">
        {messageOf(query.error)}
      </Box>
    )
  }
  const found = query.data
  if (!found) return <Box color="second">Working it out…</Box>
  const told = found.parts.slice(0, TOLD)
  const rest = found.parts.slice(TOLD)
  const sum = rest.reduce((all, { adds }) => all + adds, 0)
  const largest = largestOf([...told.map(({ adds }) => adds), sum])
  return (
    <Box fontSize="small" mb="2" role="group" aria-label={`what speaks for ${type}`}>
      <Box color="second" mb="1">
        {score(found.probability)} % likely; from {score(found.least)} % on it stands.
      </Box>
      {told.map(({ name, value, adds }) => (
        <Contribution key={name} value={adds} largest={largest} hue={hue}>
          {name}
          {value !== 1 && (
            <Box as="span" color="second">
              {' '}
              {value.toFixed(1)}
            </Box>
          )}
        </Contribution>
      ))}
      {rest.length > 0 && (
        <Contribution value={sum} largest={largest} hue={hue}>
          <Box as="span" color="second">
            {plural(rest.length, 'smaller one')}
          </Box>
        </Contribution>
      )}
    </Box>
  )
}
