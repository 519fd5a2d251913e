declare global {
  interface Window {
    /** Answers on their way by address, with when they were asked for; see public/boot.js. */
    early?: Map<string, { answer: Promise<Response>; at: number }>
  }
}

// What was asked for longer ago may have changed since.
const FRESH_MS = 10_000

/**
 * The answer that was asked for before the application was there, once: whoever asks again wants to know anew. After
 * anything has been changed none of them is handed out.
 */
export function takeEarly({ method, url }: Request, now = performance.now()): Promise<Response> | undefined {
  if (!window.early) return undefined
  if (method !== 'GET') {
    window.early.clear()
    return undefined
  }
  const { pathname, search } = new URL(url)
  const held = window.early.get(pathname + search)
  window.early.delete(pathname + search)
  return held && now - held.at < FRESH_MS ? held.answer : undefined
}
