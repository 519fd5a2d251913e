import { useEffect, useMemo, useState } from 'react'

const PAUSE_MS = 350

/** A value once nobody has changed it for a moment: what is asked of the server while somebody types. */
export function useSettled<T>(value: T, pauseMs = PAUSE_MS): T {
  const text = JSON.stringify(value)
  const [settled, setSettled] = useState(text)
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(text), pauseMs)
    return () => window.clearTimeout(timer)
  }, [text, pauseMs])
  return useMemo(() => JSON.parse(settled) as T, [settled])
}
