import { Box, chakra } from '@chakra-ui/react'
import type { ReactNode } from 'react'

import type { ScorecardShown, TypeShown } from '../../api/schema'
import { LinkAct } from '../../parts/controls'
import { hueToken, TypeCode } from '../../parts/signs'
import { number, score } from '../../parts/words'

export interface Cell {
  type: string
  outcome: '' | 'right' | 'missed' | 'surplus' | 'gold' | 'found'
}

interface TypeScoresProps {
  card: ScorecardShown
  types: readonly TypeShown[]
  cell: Cell
  onCell: (cell: Cell) => void
}

type Figures = ScorecardShown['overall']

const Th = (props: { children?: ReactNode; left?: boolean }) => (
  <chakra.th fontSize="tiny" color="second" fontWeight="bold" textAlign={props.left ? 'left' : 'right'} px="2" pb="1" scope="col">
    {props.children}
  </chakra.th>
)

/** One line a type: F1 as a dot on a scale from 0 to 100, and figures that open their sentences. */
export function TypeScores({ card, types, cell, onCell }: TypeScoresProps) {
  const codes = [...new Set([...types.map((t) => t.code).filter((code) => code in card.types), ...Object.keys(card.types)])]
  const rows = codes.map((code) => [code, card.types[code] as Figures, types.find((t) => t.code === code)] as const)
  return (
    <chakra.table w="full" maxW="4xl" fontVariantNumeric="tabular-nums">
      <thead>
        <tr>
          <Th left>type</Th>
          <Th />
          <Th>precision</Th>
          <Th>recall</Th>
          <Th>F1</Th>
          <Th>right</Th>
          <Th>missed</Th>
          <Th>not in gold</Th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([code, figures, type]) => (
          <Row key={code} figures={figures} code={code} hue={type?.hue} cell={cell} onCell={onCell}>
            <TypeCode code={code} hue={type?.hue} /> {type?.name}
          </Row>
        ))}
        <Row figures={card.overall} code="" hue={undefined} cell={cell} onCell={onCell} interval={[card.f1_low, card.f1_high]}>
          <b>all types</b>
        </Row>
      </tbody>
    </chakra.table>
  )
}

interface RowProps {
  figures: Figures
  code: string
  hue: number | undefined
  cell: Cell
  onCell: (cell: Cell) => void
  interval?: readonly [number | null, number | null]
  children: ReactNode
}

function Row({ figures, code, hue, cell, onCell, interval, children }: RowProps) {
  const figure = (outcome: Cell['outcome'], count: number) => {
    const chosen = cell.type === code && cell.outcome === outcome
    return (
      <chakra.td textAlign="right" px="2" bg={chosen ? 'chosen' : undefined}>
        {count === 0 ? (
          <Box as="span" color="second">
            0
          </Box>
        ) : (
          <LinkAct aria-pressed={chosen} aria-label={`${code || 'all types'}, ${outcome}: ${count}`} onClick={() => onCell({ type: code, outcome })}>
            {number(count)}
          </LinkAct>
        )}
      </chakra.td>
    )
  }
  const share = (outcome: Cell['outcome'], name: string, value: number | null) => {
    const chosen = cell.type === code && cell.outcome === outcome
    return (
      <chakra.td textAlign="right" px="2" fontWeight={outcome === '' ? 'bold' : 'normal'} bg={chosen ? 'chosen' : undefined}>
        {value === null ? (
          '–'
        ) : (
          <LinkAct aria-pressed={chosen} aria-label={`${code || 'all types'}, ${name} ${score(value)}`} onClick={() => onCell({ type: code, outcome })}>
            {score(value)}
          </LinkAct>
        )}
      </chakra.td>
    )
  }
  return (
    <chakra.tr h="row" borderTopWidth="1px" borderColor="hairline" data-type={code || 'all'}>
      <chakra.td px="2" whiteSpace="nowrap">
        {children}
      </chakra.td>
      <chakra.td w="48" px="2">
        <Scale f1={figures.f1} hue={hue} interval={interval} />
      </chakra.td>
      {share('found', 'precision', figures.precision)}
      {share('gold', 'recall', figures.recall)}
      {share('', 'F1', figures.f1)}
      {figure('right', figures.right)}
      {figure('missed', figures.missed)}
      {figure('surplus', figures.surplus)}
    </chakra.tr>
  )
}

function Scale({ f1, hue, interval }: { f1: number | null; hue: number | undefined; interval?: RowProps['interval'] }) {
  const x = (value: number) => 4 + value * 172
  const colour = hue === undefined ? 'ink' : hueToken(hue)
  const [low, high] = interval ?? [null, null]
  return (
    <Box asChild color={colour}>
      <svg width="180" height="14" role="presentation">
        {[0, 0.25, 0.5, 0.75, 1].map((tick) => (
          <line key={tick} x1={x(tick)} x2={x(tick)} y1="1" y2="13" stroke="var(--chakra-colors-hairline)" />
        ))}
        {low !== null && high !== null && <line x1={x(low)} x2={x(high)} y1="7" y2="7" stroke="currentColor" strokeWidth="2" />}
        {f1 !== null && <circle cx={x(f1)} cy="7" r="4" fill="currentColor" />}
      </svg>
    </Box>
  )
}
