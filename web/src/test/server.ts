/**
 * Answers requests of the page; a test sets it through `fake.tsx`. In a module of its own, because the one that sets tests
 * up runs again for every file of them.
 */
export const server: { answer: (request: Request) => Promise<Response>; unknown: string[] } = {
  /** What was asked that the test has no answer for: it fails for that, whatever the page makes of it. */
  unknown: [],
  answer: (request) => Promise.reject(new Error(`nobody answers ${request.method} ${request.url}`)),
}
