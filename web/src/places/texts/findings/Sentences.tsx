import { Box } from '@chakra-ui/react'
import { useInfiniteQuery } from '@tanstack/react-query'

import { useProject } from '../../../api/project'
import { useScheme } from '../../../api/useScheme'
import { Section } from '../../../parts/layout'
import { plural } from '../../../parts/words'
import { StavePages } from '../../../stave/StaveList'
import { LANES, laneLabel } from './lanes'
import { type SentencesWish, sentencesQuery } from './queries'

/** The sentences behind a figure, in staves. */
export function Sentences({ wish, said }: { wish: SentencesWish; said: string }) {
  const query = useInfiniteQuery(sentencesQuery(useProject(), wish))
  const { hues } = useScheme()
  const lane = wish.lane ?? LANES[0].value
  return (
    <Section>
      <Box fontSize="tiny" fontWeight="bold" color="second" mb="3" aria-live="polite">
        {said} · {query.data ? plural(query.data.pages[0]?.total ?? 0, 'sentence') : '…'}
      </Box>
      <StavePages query={query} lanes={lane === 'gold' ? [['gold', 'Gold']] : [['gold', 'Gold'], [lane, laneLabel(lane)]]} hues={hues} empty="There is no such sentence." />
    </Section>
  )
}
