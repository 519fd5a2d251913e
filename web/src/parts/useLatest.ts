import { useCallback, useLayoutEffect, useRef } from 'react'

/** Calls the newest of the functions it was given, and is itself always the same one. */
export function useLatest<A extends unknown[]>(act: (...values: A) => void): (...values: A) => void {
  const latest = useRef(act)
  useLayoutEffect(() => {
    latest.current = act
  })
  return useCallback((...values: A) => latest.current(...values), [])
}
