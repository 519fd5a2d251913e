import createClient, { type Middleware } from 'openapi-fetch'

import { takeEarly } from './early'
import type { paths } from './schema'

/** An answer of the server that says what went wrong, in words for people. */
export class ProblemError extends Error {
  readonly status: number
  readonly kind: string
  readonly more: Record<string, unknown>

  constructor(status: number, body: unknown) {
    const problem = (typeof body === 'object' && body !== null ? body : {}) as Record<string, unknown>
    super(typeof problem['detail'] === 'string' ? problem['detail'] : `The server answered with status ${status}.`)
    this.status = status
    this.kind = typeof problem['type'] === 'string' ? problem['type'] : ''
    this.more = problem
  }

  /** The field of a form that the problem is about, if it is about one. */
  get field(): string | undefined {
    return typeof this.more['field'] === 'string' ? this.more['field'] : undefined
  }
}

/** The server could not be reached at all. */
export class UnreachableError extends Error {
  constructor() {
    super('The server cannot be reached. Nothing is lost; it is tried again.')
  }
}

const problems: Middleware = {
  async onResponse({ response }) {
    if (response.ok) return undefined
    const body: unknown = await response
      .clone()
      .json()
      .catch(() => null)
    throw new ProblemError(response.status, body)
  },
  onError() {
    return new UnreachableError()
  },
}

export const api = createClient<paths>({
  baseUrl: window.location.origin,
  fetch: (request) => takeEarly(request) ?? globalThis.fetch(request),
})
api.use(problems)

/** The answer's body; errors have been thrown before. */
export async function body<T>(answer: Promise<{ data?: T }>): Promise<T> {
  return (await answer).data as T
}

/** Is it worth sending the same thing again later? */
export function isPassing(error: unknown): boolean {
  return error instanceof UnreachableError || (error instanceof ProblemError && error.status >= 500)
}

export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}
