import { queryOptions, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'

import { api, body } from '../api/client'
import { tellError } from '../parts/notes'
import { type OwnKeys, STANDARD, useOwnKeys } from '../parts/ownKeys'

const keysQuery = queryOptions({ queryKey: ['me', 'keys'], queryFn: () => body(api.GET('/api/me/keys')), staleTime: Infinity })

/** The keys of whoever is signed in. */
export function useAccountKeys(): void {
  const keys = useQuery(keysQuery).data
  useEffect(() => {
    if (keys) useOwnKeys.setState({ ...STANDARD, ...keys })
  }, [keys])
}

/** Sets them, at once for the person at the keyboard; as they were if the server refuses. */
export function useSetKeys(): (wanted: OwnKeys) => Promise<void> {
  const client = useQueryClient()
  return async (wanted) => {
    const before = useOwnKeys.getState()
    useOwnKeys.setState(wanted)
    try {
      await api.PUT('/api/me/keys', { body: wanted })
      client.setQueryData(keysQuery.queryKey, wanted)
    } catch (error) {
      useOwnKeys.setState(before)
      tellError(error)
    }
  }
}
