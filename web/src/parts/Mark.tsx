import { Box, Flex } from '@chakra-ui/react'

import type { useMarks } from './useMarks'

/** A click marks a row, with shift all from the one marked before; it does not open it. By key the open one is marked. */
export function Mark({ id, name, marks }: { id: number; name: string; marks: ReturnType<typeof useMarks> }) {
  const on = marks.has(id)
  return (
    <Flex
      align="center"
      justify="center"
      title={`mark ${name}`}
      flexShrink="0"
      boxSize="3.5"
      mt="1"
      borderWidth="1px"
      borderColor={on ? 'action' : 'third'}
      bg={on ? 'action' : 'paper'}
      color="paper"
      fontSize="tiny"
      lineHeight="1"
      onClick={(event) => {
        event.stopPropagation()
        marks.toggle(id, event.shiftKey)
      }}
    >
      {on && (
        <>
          <span aria-hidden="true">✓</span>
          <Box as="span" srOnly>
            marked
          </Box>
        </>
      )}
    </Flex>
  )
}
