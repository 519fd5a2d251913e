/** Whose spans findings can be about. */
export const LANES = [
  { value: 'gold', label: 'Gold' },
  { value: 'together', label: 'All evidence' },
  { value: 'lists', label: 'Lists' },
  { value: 'rules', label: 'Rules' },
  { value: 'tagger', label: 'Tagger' },
  { value: 'learned', label: 'Signed names' },
] as const

export function laneLabel(value: string): string {
  return LANES.find((lane) => lane.value === value)?.label ?? value
}
