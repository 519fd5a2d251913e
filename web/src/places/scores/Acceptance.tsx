import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import { Heading, Section } from '../../parts/layout'
import { Facts } from '../../parts/signs'
import { number, percent } from '../../parts/words'
import { acceptanceQuery } from './queries'

/** How often annotators took what a source offered at the Desk: for what nobody has gold yet. */
export function Acceptance() {
  const sources = useQuery(acceptanceQuery(useProject())).data
  if (!sources || sources.length === 0) return null
  return (
    <Section>
      <Heading>Taken at the Desk, of what was judged</Heading>
      <Facts
        facts={sources.map(({ source, taken, turned_down: down }) => [
          source,
          `${percent(taken, taken + down)} of ${number(taken + down)}`,
        ])}
      />
      <Box color="second" fontSize="small" mt="1">
        Evidence that was neither taken nor turned down is not counted.
      </Box>
    </Section>
  )
}
