import type { AgainstShown, GainShown } from '../../api/schema'
import { score } from '../../parts/words'

/** 0 to 1; null where there is neither gold nor anything found. */
export const f1Of = ({ right, found, gold }: AgainstShown) => (found + gold === 0 ? null : (2 * right) / (found + gold))

/** Points with their sign. */
export const points = (share: number) => `${share > 0 ? '+' : share < 0 ? '−' : ''}${score(Math.abs(share))}`

/** A difference with its interval, where there is one. */
export const interval = ({ f1, low, high }: GainShown) => `${points(f1)}${low !== null && high !== null ? ` (95 % from ${points(low)} to ${points(high)})` : ''}`
