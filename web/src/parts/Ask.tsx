import { Box } from '@chakra-ui/react'
import type { ReactNode } from 'react'

import { messageOf } from '../api/client'
import { QuietAct } from './controls'

/** A question to the server, in one part or in pages. */
interface Asked<T> {
  data: T | undefined
  isError: boolean
  error: unknown
  refetch: () => Promise<unknown>
}

/** What a question to the server came to: its answer, or what is to be said meanwhile. */
export function Ask<T>({ query, children }: { query: Asked<T>; children: (data: T) => ReactNode }) {
  if (query.data !== undefined) return <>{children(query.data)}</>
  if (query.isError) {
    return (
      <Box p="5" role="alert">
        <Box color="bad" mb="2">
          {messageOf(query.error)}
        </Box>
        <QuietAct onClick={() => void query.refetch()}>retry</QuietAct>
      </Box>
    )
  }
  return (
    <Box p="5" color="second" aria-busy="true">
      Loading…
    </Box>
  )
}
