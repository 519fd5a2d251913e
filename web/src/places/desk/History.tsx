import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import { Ask } from '../../parts/Ask'
import { Window } from '../../parts/Window'
import { moment, plural } from '../../parts/words'
import { historyQuery } from './queries'

function spansIn(side: Record<string, unknown>): number {
  const spans = side['spans']
  return Array.isArray(spans) ? spans.length : 0
}

/** Who did what in a sentence. */
export function History({ sentence, onClose }: { sentence: number; onClose: () => void }) {
  const project = useProject()
  const query = useQuery({ ...historyQuery(project, sentence), staleTime: 0 })
  return (
    <Window title="History of this sentence" onClose={onClose}>
      <Ask query={query}>
        {(acts) =>
          acts.length === 0 ? (
            <Box color="second" pb="4">
              Nobody has touched this sentence yet.
            </Box>
          ) : (
            <Box pb="4">
              {acts.map((act) => (
                <Flex key={act.id} justify="space-between" gap="4" py="1" borderBottomWidth="1px" borderColor="hairline">
                  <Box>
                    {act.who} · {act.kind}
                  </Box>
                  <Box color="second">
                    {plural(spansIn(act.before), 'span')} → {plural(spansIn(act.after), 'span')} · {moment(act.at)}
                  </Box>
                </Flex>
              ))}
            </Box>
          )
        }
      </Ask>
    </Window>
  )
}
