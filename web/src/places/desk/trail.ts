import type { Stood } from './wishes'

/** An act of this page, so that it can be undone and redone at once, also while the server is away. */
export interface Step {
  sentence: number
  /** The act's own. */
  token: string
  before: Stood
  after: Stood
}

export type Way = 'undo' | 'redo'

/** Null is an act that only the server knows: one on many sentences, or one from before the page was opened. */
type Entry = Step | null

/** By project, the acts that stand and those that were undone, the next one last. */
const trails = new Map<string, Record<Way, Entry[]>>()

function trailOf(project: string): Record<Way, Entry[]> {
  const trail = trails.get(project) ?? { undo: [], redo: [] }
  trails.set(project, trail)
  return trail
}

/** An act was made. What had been undone can no longer be redone. */
export function record(project: string, entry: Entry): void {
  const trail = trailOf(project)
  trail.undo.push(entry)
  trail.redo = []
}

/** The act that is next to be undone or redone; null where the server has to say. */
export const nextStep = (project: string, way: Way): Entry => trailOf(project)[way].at(-1) ?? null

/** The next act has gone that way. */
export function passed(project: string, way: Way): void {
  const trail = trailOf(project)
  trail[way === 'undo' ? 'redo' : 'undo'].push(trail[way].pop() ?? null)
}

/** From here on the server has to say: in one project, or in all. */
export function forget(project?: string): void {
  if (project === undefined) trails.clear()
  else trails.delete(project)
}
