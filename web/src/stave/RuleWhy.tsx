import { Box, Flex } from '@chakra-ui/react'
import { queryOptions, useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'

import { api, body } from '../api/client'
import { useProject } from '../api/project'
import type { SpanShown } from '../api/schema'
import { Ask } from '../parts/Ask'

export const ruleWhyQuery = (project: string, sentence: number, { start, end, type }: Pick<SpanShown, 'start' | 'end' | 'type'>) =>
  queryOptions({
    queryKey: ['p', project, 'rules', 'why', sentence, start, end, type],
    queryFn: () => body(api.GET('/api/projects/{project}/rules/why', { params: { path: { project }, query: { sentence, start, end, type } } })),
    retry: false,
  })

interface RuleWhyProps {
  sentence: number
  span: Pick<SpanShown, 'start' | 'end' | 'type'>
}

/** Why rules set a span, or took it away: part by part of the pattern the words that it took. */
export function RuleWhy({ sentence, span }: RuleWhyProps) {
  const project = useProject()
  const query = useQuery(ruleWhyQuery(project, sentence, span))
  return (
    <Box role="group" aria-label={`why ${span.type}`} fontSize="small" mb="2">
      <Ask query={query}>
        {(rules) =>
          rules.length === 0 ? (
            <Box color="second">No rule says so any more.</Box>
          ) : (
            rules.map(({ id, name, takes, slots, conditions }) => (
              <Box key={id} mb="1.5">
                <Box mb="0.5">
                  <Box asChild color="action">
                    <Link to={`/p/${project}/rules/${id}`}>{name}</Link>
                  </Box>{' '}
                  {takes ? 'took it away' : 'marks it'}
                </Box>
                {slots.map(({ said, marked, words }, k) => (
                  <Flex key={k} gap="3" borderTopWidth="1px" borderColor="hairline" py="0.5">
                    <Box flex="1" fontFamily="text" fontWeight={marked ? 'bold' : 'normal'}>
                      {words || '–'}
                    </Box>
                    <Box flex="1" color="second">
                      {said}
                    </Box>
                  </Flex>
                ))}
                {conditions.map((said) => (
                  <Box key={said} color="second" borderTopWidth="1px" borderColor="hairline" py="0.5">
                    holds: {said}
                  </Box>
                ))}
                {slots.length === 0 && <Box color="second">Which part took what would take too long to say.</Box>}
              </Box>
            ))
          )
        }
      </Ask>
    </Box>
  )
}
