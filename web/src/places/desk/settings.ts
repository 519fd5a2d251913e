import { create } from 'zustand'

import { TOGETHER } from './lanes'

/** What somebody has set for their own Desk; kept in the browser. */
interface DeskSettings {
  /** Names of the lanes that are not drawn. */
  hidden: string[]
  /** The type that was marked last, to be marked again. */
  lastType: string | null
  /** Where the pipeline weighs: how likely what is taken at once must be, 0 for all that stands. */
  sure: number
  /** By project: the round that is worked in, null for none. Absent: nothing has been chosen yet. */
  rounds: Record<string, number | null>
}

const STORE = 'urdaten.desk'

function kept(): DeskSettings {
  const fresh = { hidden: [TOGETHER[0]], lastType: null, sure: 0, rounds: {} }
  try {
    return { ...fresh, ...(JSON.parse(localStorage.getItem(STORE) ?? '{}') as Partial<DeskSettings>) }
  } catch {
    return fresh
  }
}

export const useDeskSettings = create<DeskSettings>(kept)

useDeskSettings.subscribe((settings) => {
  try {
    localStorage.setItem(STORE, JSON.stringify(settings))
  } catch {
    // Without storage the settings live as long as the page.
  }
})

export function chooseRound(project: string, round: number | null): void {
  useDeskSettings.setState(({ rounds }) => ({ rounds: { ...rounds, [project]: round } }))
}

export function toggleLane(name: string): void {
  useDeskSettings.setState(({ hidden }) => ({
    hidden: hidden.includes(name) ? hidden.filter((other) => other !== name) : [...hidden, name],
  }))
}
