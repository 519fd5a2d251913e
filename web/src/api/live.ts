import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

/** What else goes out of date when a place changes; keys of queries are ['p', project, place, …]. */
const DEPENDENTS: Record<string, readonly string[]> = {
  types: ['types', 'texts', 'desk', 'lists', 'rules', 'records', 'pipeline'],
  texts: ['texts', 'rounds', 'desk', 'lists', 'rules', 'pipeline'],
  desk: ['types', 'texts', 'desk', 'lists', 'rules', 'tagger', 'scores', 'records', 'pipeline'],
  rounds: ['rounds', 'desk'],
  lists: ['lists', 'desk', 'tagger', 'scores', 'records', 'pipeline'],
  rules: ['rules', 'desk', 'tagger', 'scores', 'records', 'pipeline'],
  tagger: ['tagger', 'desk', 'scores', 'records', 'pipeline'],
  pipeline: ['pipeline', 'desk', 'scores', 'records'],
  scores: ['scores'],
  records: ['records'],
  imports: ['imports'],
  jobs: ['tagger', 'jobs', 'imports'],
  project: ['project', 'rounds'],
}

const SOON_MS = 120
// Annotation changes something with every key, and one's own acts show without asking: what the work itself hangs on is
// looked at again in a while, all figures made from it later.
const AT_WORK_MS = 1000
const FIGURES_MS = 5000
// After the server has refused the stream.
export const AGAIN_MS = 5000
const CLOSED = 2
const AT_WORK = ['sentence', 'elsewhere']
const isQueue = (key: readonly unknown[]) => key[2] === 'desk' && key[3] === 'queue'
// The queue is long: it is fetched anew when other sentences may be in it; else the Desk keeps it up to date itself.
const REFETCHES_QUEUE = ['texts', 'rounds', 'all']

export function invalidate(client: QueryClient, project: string, what: string): void {
  const places = DEPENDENTS[what]
  const spared = REFETCHES_QUEUE.includes(what) ? () => false : isQueue
  const predicate = ({ queryKey }: { queryKey: readonly unknown[] }) => !spared(queryKey)
  const keys = places ? [...places, 'figures'].map((place) => ['p', project, place]) : [['p', project]]
  for (const queryKey of keys) void client.invalidateQueries({ queryKey, predicate })
}

function invalidateAtWork(client: QueryClient, project: string): void {
  for (const part of AT_WORK) void client.invalidateQueries({ queryKey: ['p', project, 'desk', part] })
}

const listeners = new Set<(project: string) => void>()

/** Call `act` after annotation has changed, as often as what depends on it is looked at again; returns the way out. */
export function onAnnotation(act: (project: string) => void): () => void {
  listeners.add(act)
  return () => listeners.delete(act)
}

/** Listen to the server's events and look again at what has changed. */
export function useLive(project: string): void {
  const client = useQueryClient()
  const [turn, setTurn] = useState(0)
  useEffect(() => {
    const source = new EventSource(`/api/projects/${encodeURIComponent(project)}/events`)
    // Changes come in bursts; one look after a while serves them all.
    const waiting = new Map<string, number>()
    const soon = (name: string, ms: number, act: () => void) => {
      if (waiting.has(name)) return
      const run = () => {
        waiting.delete(name)
        act()
      }
      waiting.set(name, window.setTimeout(run, ms))
    }
    const hear = () => {
      for (const act of listeners) act(project)
    }
    const lookAtWork = () => {
      invalidateAtWork(client, project)
      hear()
    }
    let opened = turn > 0
    // A browser goes on by itself after a cut, but not after a refusal: whoever was signed out may be back.
    source.addEventListener('error', () => {
      if (source.readyState === CLOSED) soon('open', AGAIN_MS, () => setTurn(turn + 1))
    })
    source.addEventListener('changed', (event: MessageEvent<string>) => {
      // Every stream begins with "all"; what the page itself has just fetched is no older than the first stream.
      const data = event.data === 'all' && !opened ? 'first' : event.data
      opened = true
      if (data === 'desk') soon('work', AT_WORK_MS, lookAtWork)
      // What changed just before the first stream opened is looked at when the page has settled.
      soon(data, data === 'desk' || data === 'first' ? FIGURES_MS : SOON_MS, () => {
        invalidate(client, project, data)
        if (data === 'first') hear()
      })
    })
    return () => {
      source.close()
      for (const timer of waiting.values()) window.clearTimeout(timer)
    }
  }, [client, project, turn])
}
