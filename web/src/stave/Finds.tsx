import { Flex } from '@chakra-ui/react'
import type { InfiniteData, UseInfiniteQueryResult } from '@tanstack/react-query'

import type { StavePage } from '../api/schema'
import { LinkAct } from '../parts/controls'
import { Section } from '../parts/layout'
import { number } from '../parts/words'
import { type Differing, type StaveListProps, StavePages } from './StaveList'

export type FindOutcome = '' | 'right' | 'wrong' | 'open' | 'alone' | 'missed'

interface FindsProps {
  /** Of a rule also how many right finds no other one has, and how much gold of its type no rule has. */
  counts: { finds: number; right: number; judged: number; alone?: number; missed?: number }
  outcome: FindOutcome
  onOutcome: (outcome: FindOutcome) => void
  query: UseInfiniteQueryResult<InfiniteData<StavePage>>
  lane: readonly [string, string]
  hues: ReadonlyMap<string, number>
  why?: StaveListProps['why']
  differing?: Differing | undefined
}

/** What a list or rule finds, held against gold: every figure opens its sentences. */
export function Finds({ counts, outcome, onOutcome, query, lane, hues, why, differing }: FindsProps) {
  const { finds, right, judged, alone, missed } = counts
  const figures: readonly (readonly [FindOutcome, string])[] = [
    ['', `${number(finds)} in the corpus`],
    ['right', `right ${number(right)}`],
    ['wrong', `wrong ${number(judged - right)}`],
    ['open', `in unsigned sentences ${number(finds - judged)}`],
    ...(alone === undefined ? [] : [['alone', `found by no other ${number(alone)}`] as const]),
    ...(missed === undefined ? [] : [['missed', `missed by all rules ${number(missed)}`] as const]),
  ]
  return (
    <Section>
      <Flex gap="4" rowGap="1" wrap="wrap" mb="3" role="group" aria-label="finds">
        {figures.map(([name, words]) => (
          <LinkAct key={name} aria-pressed={outcome === name} fontWeight={outcome === name ? 'bold' : 'normal'} color={outcome === name ? 'ink' : 'action'} onClick={() => onOutcome(name)}>
            {words}
          </LinkAct>
        ))}
      </Flex>
      <StavePages query={query} lanes={[['gold', 'Gold'], lane]} hues={hues} why={why} differing={differing} empty={finds === 0 ? 'Nothing is found so far.' : 'There is no such sentence.'} />
    </Section>
  )
}
