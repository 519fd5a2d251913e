import type { QueryClient } from '@tanstack/react-query'

import { meQuery, projectQuery, schemeQuery } from '../api/project'
import { fetchDesk } from '../places/desk/ahead'

// After so long the frame is drawn without it.
const MOST_MS = 800

/**
 * Wait for what `public/boot.js` has asked for, so that the page is drawn once, with everything in it: drawn empty first, and
 * again with every answer, it would stand later. Never fails: what did not come is asked for again where it is shown.
 */
export async function fetchAhead(client: QueryClient, path: string): Promise<void> {
  const [, p, project, place, id = ''] = path.split('/')
  if (p !== 'p' || !project || !window.early) return
  const asked = [
    client.query(meQuery),
    client.query(projectQuery(project)),
    client.query(schemeQuery(project)),
    ...(place === 'desk' && /^\d+$/.test(id) ? fetchDesk(client, project, Number(id)) : []),
  ]
  await Promise.race([Promise.allSettled(asked), new Promise((late) => window.setTimeout(late, MOST_MS))])
}
