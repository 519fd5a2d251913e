import { Box } from '@chakra-ui/react'

import type { TrainingShown, TypeFigures } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Heading } from '../../parts/layout'
import { TypeCode } from '../../parts/signs'
import { number, score } from '../../parts/words'

interface ByTypeProps {
  training: TrainingShown
  /** Another training to hold it against. */
  other?: TrainingShown | undefined
}

/** What there was to learn of each type and how well it was learnt; beside another training the gain. */
export function ByType({ training, other }: ByTypeProps) {
  const { hues } = useScheme()
  const rows = training.made_from.by_type ?? []
  if (rows.length === 0) return null
  const before = new Map((other?.made_from.by_type ?? []).map((row) => [row.type, row]))
  return (
    <Box>
      <Heading>By type</Heading>
      <Box as="table" w="full" fontVariantNumeric="tabular-nums" css={{ '& th, & td': { paddingBlock: '2px', textAlign: 'right' } }}>
        <Box as="thead" color="second" fontSize="small">
          <tr>
            <Box as="th" fontWeight="normal" textAlign="left!">type</Box>
            <Box as="th" fontWeight="normal">spans learnt</Box>
            <Box as="th" fontWeight="normal">dev spans</Box>
            <Box as="th" fontWeight="normal">dev F1</Box>
            {other && <Box as="th" fontWeight="normal">against {other.name}</Box>}
            <Box as="th" w="45%" aria-hidden />
          </tr>
        </Box>
        <tbody>
          {rows.map((row) => (
            <tr key={row.type}>
              <Box as="td" textAlign="left!">
                <TypeCode code={row.type} hue={hues.get(row.type)} />
              </Box>
              <td>{number(row.train_spans)}</td>
              <td>{number(row.dev_spans)}</td>
              <Box as="td" fontWeight="bold">
                {row.dev_f1 === null ? '–' : score(row.dev_f1)}
              </Box>
              {other && <Gain row={row} before={before.get(row.type)} />}
              <Box as="td" pl="4" aria-hidden>
                <Box bg="hairline" h="2">
                  <Box bg="action" h="full" style={{ width: `${(row.dev_f1 ?? 0) * 100}%` }} />
                </Box>
              </Box>
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  )
}

function Gain({ row, before }: { row: TypeFigures; before: TypeFigures | undefined }) {
  if (row.dev_f1 === null || before?.dev_f1 == null) return <td>–</td>
  const gain = (row.dev_f1 - before.dev_f1) * 100
  const shown = `${gain > 0 ? '+' : gain < 0 ? '−' : '±'}${Math.abs(gain).toFixed(1)}`
  return (
    <Box as="td" color={gain > 0 ? 'good' : gain < 0 ? 'bad' : 'second'}>
      {shown}
    </Box>
  )
}
