/** Of the pipeline's answer what no other lane has; it is there where somebody has changed the pipeline. */
export const PIPELINE = ['pipeline', 'Pipeline'] as const

/** Sources of evidence: name on the wire, label on the stave. */
export const LANES: readonly (readonly [string, string])[] = [
  ['lists', 'Lists'],
  ['rules', 'Rules'],
  ['tagger', 'Tagger'],
  ['learned', 'Learned'],
  PIPELINE,
]

/** What the sources come to: not a source of its own. */
export const TOGETHER = ['together', 'Together'] as const

/** Every lane that can be hidden. */
export const EVERY_LANE = [...LANES.filter((lane) => lane !== PIPELINE), TOGETHER, PIPELINE]
