import { Box } from '@chakra-ui/react'
import type { ReactNode } from 'react'

import { messageOf, ProblemError } from '../api/client'
import { QuietAct } from './controls'

/** A question to the server, in one part or in pages. */
export interface Asked<T> {
  data: T | undefined
  isError: boolean
  error: unknown
  refetch: () => Promise<unknown>
}

const isGone = (error: unknown) => error instanceof ProblemError && error.status === 404

/** What a question to the server came to: its answer, or what is to be said meanwhile. */
export function Ask<T>({ query, children }: { query: Asked<T>; children: (data: T) => ReactNode }) {
  // What is gone is not shown as if it were still there.
  if (query.data !== undefined && !isGone(query.error)) return <>{children(query.data)}</>
  if (query.isError) {
    return (
      <Box p="5" role="alert">
        <Box color="bad" mb="2">
          {messageOf(query.error)}
        </Box>
        {!isGone(query.error) && <QuietAct onClick={() => void query.refetch()}>retry</QuietAct>}
      </Box>
    )
  }
  return (
    <Box p="5" color="second" aria-busy="true">
      Loading…
    </Box>
  )
}

/** Above what was read before, when it could not be read again. */
export function Stale({ query }: { query: Asked<unknown> }) {
  if (query.data === undefined || !query.isError) return null
  return (
    <Box px="3" pb="2" fontSize="small" color="bad" role="status">
      This may be out of date. {messageOf(query.error)} <QuietAct onClick={() => void query.refetch()}>retry</QuietAct>
    </Box>
  )
}
