import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'

/** What else goes out of date when a place changes; keys of queries are ['p', project, place, …]. */
const DEPENDENTS: Record<string, readonly string[]> = {
  types: ['types', 'texts', 'desk', 'lists', 'rules', 'records'],
  texts: ['texts', 'desk', 'lists', 'rules'],
  desk: ['types', 'texts', 'desk', 'lists', 'rules', 'tagger', 'scores', 'records'],
  lists: ['lists', 'desk', 'tagger', 'scores', 'records'],
  rules: ['rules', 'desk', 'tagger', 'scores', 'records'],
  tagger: ['tagger', 'desk', 'scores', 'records'],
  scores: ['scores'],
  records: ['records'],
  jobs: ['tagger', 'jobs'],
}

/** The queue is long, and one's own acts show in it without asking: it is looked at again now and then only. */
const QUEUE_MS = 4000
const isQueue = (key: readonly unknown[]) => key[2] === 'desk' && key[3] === 'queue'

export function invalidate(client: QueryClient, project: string, what: string): void {
  if (what === 'queue') {
    void client.invalidateQueries({ queryKey: ['p', project, 'desk', 'queue'] })
    return
  }
  const places = DEPENDENTS[what]
  if (!places) {
    void client.invalidateQueries({ queryKey: ['p', project] })
    return
  }
  const spared = what === 'desk' ? isQueue : () => false
  for (const place of [...places, 'figures']) {
    void client.invalidateQueries({ queryKey: ['p', project, place], predicate: ({ queryKey }) => !spared(queryKey) })
  }
}

/** Listen to the server's events and look again at what has changed. */
export function useLive(project: string): void {
  const client = useQueryClient()
  useEffect(() => {
    const source = new EventSource(`/api/projects/${encodeURIComponent(project)}/events`)
    // Changes come in bursts; one look after a short while serves them all.
    const waiting = new Set<string>()
    let timer: number | undefined
    let queueTimer: number | undefined
    source.addEventListener('changed', (event: MessageEvent<string>) => {
      waiting.add(event.data)
      if (event.data === 'desk') {
        queueTimer ??= window.setTimeout(() => {
          queueTimer = undefined
          invalidate(client, project, 'queue')
        }, QUEUE_MS)
      }
      timer ??= window.setTimeout(() => {
        timer = undefined
        for (const what of waiting) invalidate(client, project, what)
        waiting.clear()
      }, 120)
    })
    return () => {
      source.close()
      window.clearTimeout(timer)
      window.clearTimeout(queueTimer)
    }
  }, [client, project])
}
