import { Box } from '@chakra-ui/react'
import { type ReactNode, useEffect } from 'react'

import { Title } from '../../parts/layout'

/** A page of its own: one column, read from top to bottom. */
export function Page({ title, side, children }: { title: string; side?: ReactNode; children: ReactNode }) {
  useEffect(() => {
    document.title = `${title} · Urdaten`
    return () => {
      document.title = 'Urdaten'
    }
  }, [title])
  return (
    <Box as="main" id="main" tabIndex={-1} h="full" overflowY="auto" bg="paper">
      <Box maxW="5xl" mx="auto" px="6" py="5">
        <Title side={side}>{title}</Title>
        {children}
      </Box>
    </Box>
  )
}

/** A part of such a page, under a heading. */
export function Part({ title, about, children }: { title: string; about?: ReactNode; children: ReactNode }) {
  return (
    <Box as="section" aria-label={title} borderTopWidth="1px" borderColor="hairline" py="4">
      <Box as="h2" fontWeight="bold" fontSize="ui" mb="1">
        {title}
      </Box>
      {about && (
        <Box color="second" mb="3" maxW="prose">
          {about}
        </Box>
      )}
      {children}
    </Box>
  )
}
