import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import type { ReactElement } from 'react'
import { flushSync } from 'react-dom'
import { createMemoryRouter, RouterProvider } from 'react-router'

import { projectQuery } from '../api/project'
import type { PersonShown, ProjectFigures, ProjectShown, SchemeShown, TypeShown } from '../api/schema'
import { KeyStrip } from '../app/KeyStrip'
import { Notes } from '../app/Notes'
import { toaster } from '../parts/notes'
import { server } from './server'
import { system } from '../theme/system'

/** What the fake server was asked, in order. */
export interface Asked {
  what: string
  body: unknown
}

export class Refusal {
  readonly status: number
  readonly problem: Record<string, unknown>

  constructor(status: number, problem: Record<string, unknown>) {
    this.status = status
    this.problem = problem
  }
}

/** "METHOD /path" → its answer, or a function that makes one, now or later, from what was sent. */
export type Answers = Record<string, unknown>

export const LEAD: PersonShown = { id: 1, login: 'ines', name: 'Ines', keeper: true }
export const ANNOTATOR: PersonShown = { id: 2, login: 'jo', name: 'Jo', keeper: false }

export const VES: TypeShown = {
  id: 1, code: 'VES', name: 'vessel', key: 'v', hue: 16, definition: 'A ship by its name.',
  counts: ['Amber Quay'], counts_not: ['MV'], rulings: ['A former name counts.'], spans: 12, version: 1, parent: null, value_kind: 'none',
}
export const PRT: TypeShown = { ...VES, id: 2, code: 'PRT', name: 'port', key: 'p', hue: 9, definition: 'A port by its name.', spans: 7 }
export const SCHEME: SchemeShown = { version: 3, overlap: 'apart', types: [VES, PRT] }

export const FIGURES: ProjectFigures = {
  types: 2, scheme: 3, texts: 1, signed: 1, sentences: 2, lists: 1, names: 2, rules: 1, rules_failing: 0,
  tagger: null, pipeline: { stages: 2, version: 0 }, scores: null, records: 0, records_open: 0, stale: {}, running: [],
}

const P = '/api/projects/tessmar'

/** The project as somebody has it: Ines leads it, Jo annotates. */
export const projectOf = (me: PersonShown): ProjectShown => ({
  slug: 'tessmar', name: 'Port of Tessmar', language: 'en', created_at: '2026-08-01T08:00:00Z', removed_at: null,
  role: me.id === LEAD.id ? 'lead' : me.id === ANNOTATOR.id ? 'annotator' : 'reader',
})

/** Paths within the project may leave out where the project lies. */
function full(what: string): string {
  const [method = '', path = ''] = what.split(' ')
  return `${method} ${path.startsWith('/api/') ? path : P + path}`
}

/**
 * Draw a page of the project against a fake server that knows only these answers and fails loudly on
 * any other request. Returns what was asked, and the router.
 */
export function openPlace(element: ReactElement, path: string, answers: Answers, me: PersonShown = LEAD) {
  const asked: Asked[] = []
  const known = new Map(
    Object.entries({
      'GET /api/me': me,
      'GET /api/projects/tessmar': projectOf(me),
      'GET /types': SCHEME,
      'GET /figures': FIGURES,
      'GET /evidence': { texts: 1, behind: 0, job: null },
      ...answers,
    }).map(([what, answer]) => [full(what), answer]),
  )
  server.answer = async (request) => {
    const address = new URL(request.url)
    const what = `${request.method} ${address.pathname}`
    const sent: unknown = request.method === 'GET' ? Object.fromEntries(address.searchParams) : await request.json().catch(() => null)
    if (!known.has(what)) {
      server.unknown.push(what)
      throw new Error(`the page asked for ${what}, which the test has no answer for`)
    }
    asked.push({ what: what.replace(P, ''), body: sent })
    const found = known.get(what)
    const answer: unknown = typeof found === 'function' ? await (found as (body: unknown) => unknown)(sent) : found
    if (answer instanceof Refusal) {
      return Response.json(answer.problem, { status: answer.status, headers: { 'Content-Type': 'application/problem+json' } })
    }
    return answer === undefined ? new Response(null, { status: 204 }) : Response.json(answer)
  }
  // Nothing is left over from the page before.
  toaster.remove()
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  // The frame has asked for this before it draws any place.
  client.setQueryData(projectQuery('tessmar').queryKey, projectOf(me))
  const routes = createMemoryRouter(
    [
      { path: '/p/:project/:place/:id?', element: <>{element}<KeyStrip onHelp={() => undefined} onGuide={() => undefined} /><Notes /></> },
      { path: '*', element: <p>elsewhere</p> },
    ],
    { initialEntries: [`/p/tessmar/${path}`] },
  )
  render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={client}>
        <RouterProvider router={routes} flushSync={(act) => void flushSync(act)} />
      </QueryClientProvider>
    </ChakraProvider>,
  )
  return { asked, router: routes, client }
}

/** What was asked with another method than GET. */
export function written(asked: readonly Asked[]): Asked[] {
  return asked.filter(({ what }) => !what.startsWith('GET'))
}
