import { useQuery } from '@tanstack/react-query'

import { ProblemError } from '../api/client'
import { meQuery } from '../api/project'

/** Is nobody signed in? */
export function useGuest(): boolean {
  const { error } = useQuery(meQuery)
  return error instanceof ProblemError && error.status === 401
}
