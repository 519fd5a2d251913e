import { useEffect, useMemo, useState } from 'react'

const PAUSE_MS = 350

/** A value once nobody has changed it for a moment: what is asked of the server while somebody types. */
export function useSettled<T>(value: T): T {
  const text = JSON.stringify(value)
  const [settled, setSettled] = useState(text)
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(text), PAUSE_MS)
    return () => window.clearTimeout(timer)
  }, [text])
  return useMemo(() => JSON.parse(settled) as T, [settled])
}
