import { Box, Flex } from '@chakra-ui/react'

import { QuietAct } from '../parts/controls'
import { useNotes } from '../parts/notes'

/** Lines that tell what happened, above the strip. */
export function Notes() {
  const { notes, drop } = useNotes()
  return (
    <Flex position="fixed" bottom="10" right="4" direction="column" gap="2" zIndex="toast" role="status" aria-live="polite">
      {notes.map((note) => (
        <Flex key={note.id} bg="raised" borderWidth="1px" borderColor={note.bad ? 'bad' : 'hairline'} px="3" py="2" gap="3" maxW="md" align="baseline">
          <Box flex="1" color={note.bad ? 'bad' : 'ink'} role={note.bad ? 'alert' : undefined}>
            {note.text}
          </Box>
          <QuietAct onClick={() => drop(note.id)}>close</QuietAct>
        </Flex>
      ))}
    </Flex>
  )
}
