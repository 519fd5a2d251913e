import { Box } from '@chakra-ui/react'

import type { EpochShown } from '../../api/schema'
import { score } from '../../parts/words'

const WIDTH = 660
const HEIGHT = 230
const LEFT = 36
const BOTTOM = 24
const RIGHT = 50
const TOP = 10

/** Train and dev F1 by epoch, on a scale from 0 to 100. */
export function Curve({ epochs, most }: { epochs: readonly EpochShown[]; most: number }) {
  const x = (epoch: number) => LEFT + ((epoch - 1) / Math.max(1, most - 1)) * (WIDTH - LEFT - RIGHT)
  const y = (f1: number) => HEIGHT - BOTTOM - f1 * (HEIGHT - BOTTOM - TOP)
  const path = (pick: (e: EpochShown) => number | null) =>
    epochs
      .flatMap((e) => {
        const f1 = pick(e)
        return f1 === null ? [] : [`${x(e.epoch).toFixed(1)},${y(f1).toFixed(1)}`]
      })
      .map((point, i) => `${i === 0 ? 'M' : 'L'}${point}`)
      .join(' ')
  const last = epochs.at(-1)
  const best = epochs.find((e) => e.epoch === last?.best_epoch)
  const late = best !== undefined && x(best.epoch) > WIDTH / 2
  const bestF1 = best?.dev_f1 ?? best?.train_f1
  return (
    <Box asChild maxW="full" color="second" fontSize="tiny">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={`F1 by epoch; best ${score(bestF1)} at epoch ${best?.epoch ?? 0}`}>
        {[0, 20, 40, 60, 80, 100].map((tick) => (
          <g key={tick}>
            <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(tick / 100)} y2={y(tick / 100)} stroke="var(--chakra-colors-hairline)" />
            <text x={LEFT - 6} y={y(tick / 100) + 4} textAnchor="end" fill="currentColor">
              {tick}
            </text>
          </g>
        ))}
        <text x={WIDTH - RIGHT} y={HEIGHT - 4} textAnchor="end" fill="currentColor">
          epoch {last?.epoch}
        </text>
        {best && (
          <g>
            <line x1={x(best.epoch)} x2={x(best.epoch)} y1={TOP} y2={HEIGHT - BOTTOM} stroke="var(--chakra-colors-gold-mark)" />
            <text
              x={x(best.epoch) + (late ? -5 : 5)}
              y={HEIGHT - BOTTOM - 8}
              textAnchor={late ? 'end' : 'start'}
              fill="var(--chakra-colors-gold)"
            >
              best so far {score(bestF1)} at {best.epoch}
            </text>
          </g>
        )}
        <path d={path((e) => e.train_f1)} fill="none" stroke="currentColor" strokeDasharray="4 3" />
        <path d={path((e) => e.dev_f1)} fill="none" stroke="var(--chakra-colors-action)" strokeWidth="2" />
        {last?.train_f1 != null && (
          <text x={x(last.epoch) + 6} y={y(last.train_f1) + 4} fill="currentColor">
            train
          </text>
        )}
        {last?.dev_f1 != null && (
          <text x={x(last.epoch) + 6} y={y(last.dev_f1) + 14} fill="var(--chakra-colors-action)">
            dev
          </text>
        )}
      </svg>
    </Box>
  )
}
