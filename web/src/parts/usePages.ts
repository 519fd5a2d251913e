import type { InfiniteData } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'

interface Paged<Page> {
  data: InfiniteData<Page> | undefined
  hasNextPage: boolean
  isFetchingNextPage: boolean
  isFetchNextPageError: boolean
  error: unknown
  fetchNextPage: () => Promise<unknown>
  hasPreviousPage: boolean
  isFetchingPreviousPage: boolean
  isFetchPreviousPageError: boolean
  fetchPreviousPage: () => Promise<unknown>
}

/** What stands below the rows of a list that comes in pages. */
export interface Rest {
  /** Ask for the next page, if there is one and the last one did not fail. */
  more: () => void
  /** Likewise for the page before the first, where pages are fetched both ways. */
  earlier: () => void
  /** Why the next page did not come; asked for again only when somebody says so. */
  fault: unknown
  retry: () => void
}

/** The rows of all pages so far, and the way to the next. `rowsOf` is one function, not made anew with every call. */
export function usePages<Page, Row>(query: Paged<Page>, rowsOf: (page: Page) => readonly Row[]): { rows: readonly Row[] | undefined; rest: Rest } {
  const { data, error } = query
  const { hasNextPage, isFetchingNextPage, isFetchNextPageError, fetchNextPage } = query
  const { hasPreviousPage, isFetchingPreviousPage, isFetchPreviousPageError, fetchPreviousPage } = query
  const rows = useMemo(() => data?.pages.flatMap((page) => rowsOf(page)), [data, rowsOf])
  const retry = useCallback(() => void (isFetchPreviousPageError ? fetchPreviousPage() : fetchNextPage()), [isFetchPreviousPageError, fetchPreviousPage, fetchNextPage])
  const more = useCallback(() => {
    if (hasNextPage && !isFetchingNextPage && !isFetchNextPageError) void fetchNextPage()
  }, [hasNextPage, isFetchingNextPage, isFetchNextPageError, fetchNextPage])
  const earlier = useCallback(() => {
    if (hasPreviousPage && !isFetchingPreviousPage && !isFetchPreviousPageError) void fetchPreviousPage()
  }, [hasPreviousPage, isFetchingPreviousPage, isFetchPreviousPageError, fetchPreviousPage])
  const fault = isFetchNextPageError || isFetchPreviousPageError ? error : null
  const rest = useMemo(() => ({ more, earlier, fault, retry }), [more, earlier, fault, retry])
  return { rows, rest }
}
