import { Flex } from '@chakra-ui/react'
import type { InfiniteData, UseInfiniteQueryResult } from '@tanstack/react-query'

import type { StavePage } from '../api/schema'
import { LinkAct } from '../parts/controls'
import { Section } from '../parts/layout'
import { number } from '../parts/words'
import { StavePages } from './StaveList'

export type FindOutcome = '' | 'right' | 'wrong' | 'open'

interface FindsProps {
  counts: { finds: number; right: number; judged: number }
  outcome: FindOutcome
  onOutcome: (outcome: FindOutcome) => void
  query: UseInfiniteQueryResult<InfiniteData<StavePage>>
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
      <StavePages query={query} lanes={[['gold', 'Gold'], lane]} hues={hues} empty={finds === 0 ? 'Nothing is found so far.' : 'There is no such sentence.'} />
    </Section>
  )
}
