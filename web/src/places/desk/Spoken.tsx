import { Box } from '@chakra-ui/react'
import { memo } from 'react'

import { score } from '../../parts/words'
import type { MarkedSpan } from './edits'
import type { Evidence } from './evidence'
import { LANES } from './lanes'

const LABELS = new Map(LANES)

interface SpokenProps {
  words: string
  gold: MarkedSpan | undefined
  evidence: readonly Evidence[]
  differs: boolean
}

function said({ type, lane, probability, overruled }: Evidence): string {
  const sure = probability === null || probability === undefined ? '' : ` ${score(probability)} percent`
  return `${LABELS.get(lane) ?? lane} ${type}${sure}${overruled ? ', overruled' : ''}`
}

/** Tells readers of screens where the cursor is, what stands there, and whether gold and evidence differ. */
export const Spoken = memo(function Spoken({ words, gold, evidence, differs }: SpokenProps) {
  const parts = [
    `${words}: ${gold ? `${gold.type} in gold` : 'not marked'}`,
    evidence.map(said).join('; '),
    differs ? 'gold and evidence differ here' : '',
  ]
  return (
    <Box srOnly aria-live="polite" data-spoken>
      {words && `${parts.filter(Boolean).join('. ')}.`}
    </Box>
  )
})
