import { Box } from '@chakra-ui/react'

import { LinkAct } from '../../parts/controls'
import type { Standing } from './standing'

/** The question that stands above a sentence. */
export function QuestionLine({ standing, onOpen }: { standing: Standing; onOpen: () => void }) {
  return (
    <Box ml="laneLabel" mb="3" borderLeftWidth="3px" borderColor={standing.answer ? 'hairline' : 'bad'} pl="2.5" maxW="3xl">
      <Box>
        <b>Question to the lead:</b> {standing.question} <LinkAct onClick={onOpen}>{standing.answer ? 'open' : 'answer or change'}</LinkAct>
      </Box>
      {standing.answer && (
        <Box>
          <b>Answer:</b> {standing.answer}
        </Box>
      )}
    </Box>
  )
}
