import { Box, Flex } from '@chakra-ui/react'
import type { UseQueryResult } from '@tanstack/react-query'

import type { StavePage } from '../api/schema'
import { Ask } from '../parts/Ask'
import { LinkAct } from '../parts/controls'
import { Section } from '../parts/layout'
import { number } from '../parts/words'
import { StaveList } from './StaveList'

export type FindOutcome = '' | 'right' | 'wrong' | 'open'

interface FindsProps {
  counts: { finds: number; right: number; judged: number }
  outcome: FindOutcome
  onOutcome: (outcome: FindOutcome) => void
  query: UseQueryResult<StavePage>
  lane: readonly [string, string]
  hues: ReadonlyMap<string, number>
}

/** What a list or rule finds, held against gold: every figure opens its sentences. */
export function Finds({ counts, outcome, onOutcome, query, lane, hues }: FindsProps) {
  const { finds, right, judged } = counts
  const figures: readonly (readonly [FindOutcome, string])[] = [
    ['', `${number(finds)} in the corpus`],
    ['right', `right ${number(right)}`],
    ['wrong', `wrong ${number(judged - right)}`],
    ['open', `in unsigned sentences ${number(finds - judged)}`],
  ]
  return (
    <Section>
      <Flex gap="4" mb="3" role="group" aria-label="finds">
        {figures.map(([name, words]) => (
          <LinkAct key={name} aria-pressed={outcome === name} fontWeight={outcome === name ? 'bold' : 'normal'} color={outcome === name ? 'ink' : 'action'} onClick={() => onOutcome(name)}>
            {words}
          </LinkAct>
        ))}
      </Flex>
      <Ask query={query}>
        {(page) => (
          <Box>
            <StaveList page={page} lanes={[['gold', 'Gold'], lane]} hues={hues} empty={finds === 0 ? 'Nothing is found so far.' : 'There is no such sentence.'} />
          </Box>
        )}
      </Ask>
    </Section>
  )
}
