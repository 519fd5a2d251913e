/**
 * Answers requests of the page; a test sets it through `fake.tsx`. In a module of its own, because the one that sets tests
 * up runs again for every file of them.
 */
export const server: { answer: (request: Request) => Promise<Response> } = {
  answer: (request) => Promise.reject(new Error(`nobody answers ${request.method} ${request.url}`)),
}
