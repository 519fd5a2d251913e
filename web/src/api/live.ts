import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'

/** What else goes out of date when a place changes; keys of queries are ['p', project, place, …]. */
const DEPENDENTS: Record<string, readonly string[]> = {
  types: ['types', 'texts', 'desk', 'lists', 'rules', 'records'],
  texts: ['texts', 'desk', 'lists', 'rules'],
  desk: ['types', 'texts', 'desk', 'lists', 'rules', 'tagger', 'scores', 'records'],
  rounds: ['desk'],
  lists: ['lists', 'desk', 'tagger', 'scores', 'records'],
  rules: ['rules', 'desk', 'tagger', 'scores', 'records'],
  tagger: ['tagger', 'desk', 'scores', 'records'],
  scores: ['scores'],
  records: ['records'],
  jobs: ['tagger', 'jobs'],
}

const SOON_MS = 120
// Annotation changes something with every key, and one's own acts show without asking.
const DESK_MS = 1200
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

const listeners = new Set<(project: string) => void>()

/** Call `act` after annotation has changed, as often as what depends on it is looked at again; returns the way out. */
export function onAnnotation(act: (project: string) => void): () => void {
  listeners.add(act)
  return () => listeners.delete(act)
}

/** Listen to the server's events and look again at what has changed. */
export function useLive(project: string): void {
  const client = useQueryClient()
  useEffect(() => {
    const source = new EventSource(`/api/projects/${encodeURIComponent(project)}/events`)
    // Changes come in bursts; one look after a while serves them all.
    const waiting = new Map<string, number>()
    const look = (what: string) => {
      waiting.delete(what)
      invalidate(client, project, what)
      if (what === 'desk' || what === 'again') for (const act of listeners) act(project)
    }
    let opened = false
    source.addEventListener('changed', (event: MessageEvent<string>) => {
      // Every stream begins with "all"; what the page itself has just fetched is no older than the first stream.
      const data = event.data === 'all' && !opened ? 'again' : event.data
      opened = true
      if (waiting.has(data)) return
      waiting.set(data, window.setTimeout(() => look(data), data === 'desk' ? DESK_MS : SOON_MS))
    })
    return () => {
      source.close()
      for (const timer of waiting.values()) window.clearTimeout(timer)
    }
  }, [client, project])
}
