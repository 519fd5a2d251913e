/** Sources of evidence: name on the wire, label on the stave. */
export const LANES: readonly (readonly [string, string])[] = [
  ['lists', 'Lists'],
  ['rules', 'Rules'],
  ['tagger', 'Tagger'],
  ['learned', 'Learned'],
]
