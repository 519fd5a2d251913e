import { Box } from '@chakra-ui/react'
import { memo } from 'react'
import { Link } from 'react-router'

import { useProject } from '../../api/project'
import type { TypeShown } from '../../api/schema'
import { LinkAct } from '../../parts/controls'
import { Heading } from '../../parts/layout'

// The first examples are the plainest; the rest stand one click away, or the stave would be pushed out of sight.
const SHOWN = 3

/** What a type means, with its plainest examples. */
export const Definition = memo(function Definition({ types, code }: { types: readonly TypeShown[]; code: string | undefined }) {
  const project = useProject()
  const type = types.find((t) => t.code === code)
  if (!type) {
    return <Box color="second">With the cursor on a span or on evidence, the definition of its type stands here.</Box>
  }
  return (
    <Box>
      <Heading>Definition · {type.name}</Heading>
      <Box mb="1">{type.definition}</Box>
      {type.counts.length > 0 && (
        <Box>
          <Box as="b" color="good">
            Counts:
          </Box>{' '}
          {type.counts.slice(0, SHOWN).join('; ')}
        </Box>
      )}
      {type.counts_not.length > 0 && (
        <Box>
          <Box as="b" color="bad">
            Does not:
          </Box>{' '}
          {type.counts_not.slice(0, SHOWN).join('; ')}
        </Box>
      )}
      <LinkAct asChild mt="1">
        <Link to={`/p/${project}/types/${type.id}`}>all guidelines for {type.name}</Link>
      </LinkAct>
    </Box>
  )
})
