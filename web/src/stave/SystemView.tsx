import { memo } from 'react'

import { hueColour } from '../parts/signs'
import { type PlacedBar, type PlacedLane, stretches, type System } from './layout'
import { measureText } from './measure'
import { placeOf } from './setting'
import type { Lane, Range, StaveSpan } from './span'
import type { StaveProps } from './Stave'

interface SystemViewProps {
  number: number
  system: System
  hues: ReadonlyMap<string, number>
  first: number
  last: number
  cursor: number
  within: Range | undefined
  /** Its bounds are shown through all lanes. */
  raised: Range | undefined
  selectable: boolean
  onSpan: StaveProps['onSpan']
  boundable: boolean
}

// All in this module are plain elements, styled once under .stave in theme/plain: a sentence has hundreds of them, and
// many come anew with every key.

/** One line of text with its lanes, its selection and its cursor. */
export function SystemView({ number, system, hues, first, last, cursor, within, raised, selectable, onSpan, boundable }: SystemViewProps) {
  const { tokens } = system
  const chosen = tokens.filter((t) => t.index >= first && t.index <= last)
  const from = chosen[0]
  const to = chosen.at(-1)
  const selected = from && to ? stretches(tokens, within ?? { start: from.start, end: to.end }, measureText) : []
  const at = tokens.find((t) => t.index === cursor)
  return (
    <div className={system.lanes.length > 0 ? 'system' : 'system bare'}>
      <Labels lanes={system.lanes} />
      <div className="field" data-system={number}>
        {system.columns.map((column, i) => (
          <div key={i} data-differs style={{ left: column.x, width: column.width }} />
        ))}
        {selected.map(({ x, width }, i) => (
          <div key={i} data-selection style={{ left: x, width }} />
        ))}
        {at && <div data-cursor style={{ left: at.x, width: at.width }} />}
        <Words tokens={tokens} selectable={selectable} />
        {raised && <Hairlines tokens={tokens} span={raised} />}
        {system.lanes.map((placed) => (
          <LaneView key={placed.lane.id} placed={placed} width={system.width} hues={hues} onSpan={onSpan} boundable={boundable} />
        ))}
      </div>
    </div>
  )
}

/** Where a span begins and ends, through all lanes. */
const Hairlines = memo(function Hairlines({ tokens, span: { start, end } }: { tokens: System['tokens']; span: Range }) {
  return [start, end].map((offset, i) => {
    // A bound between two lines belongs to the one on which its span lies.
    const token = tokens.find((t) => (i === 0 ? t.start <= offset && offset < t.end : t.start < offset && offset <= t.end))
    const x = token ? placeOf([token], offset, measureText) : null
    return x === null ? null : <div key={i} data-hairline style={{ left: x }} />
  })
})

const rowsHigh = (rows: number) => `calc(var(--chakra-sizes-lane) * ${rows})`

const Labels = memo(function Labels({ lanes }: Pick<System, 'lanes'>) {
  return (
    <div className="labels">
      {lanes.map(({ lane, rows }) => (
        <div key={lane.id} className={lane.ground ? 'ground' : undefined} style={{ height: rowsHigh(rows) }} title={lane.label}>
          {lane.label}
        </div>
      ))}
    </div>
  )
}, (one, other) => one.lanes.length === other.lanes.length && one.lanes.every((placed, i) => sameLabel(placed, other.lanes[i])))

const sameLabel = (one: PlacedLane, other: PlacedLane | undefined) =>
  one.rows === other?.rows && one.lane.id === other.lane.id && one.lane.label === other.lane.label

const Words = memo(function Words({ tokens, selectable }: { tokens: System['tokens']; selectable: boolean }) {
  return (
    <div className={selectable ? 'words selectable' : 'words'}>
      {tokens.map((token) => (
        <span key={token.index} data-token={token.index} dir={token.back ? 'rtl' : undefined} style={{ left: token.x }}>
          {token.words}
        </span>
      ))}
    </div>
  )
})

const LEAST_WIDTH = 60

interface LaneViewProps {
  placed: PlacedLane
  width: number
  hues: ReadonlyMap<string, number>
  onSpan: StaveProps['onSpan']
  boundable: boolean
}

const LaneView = memo(function LaneView({ placed, width, hues, onSpan, boundable }: LaneViewProps) {
  const { lane, rows, bars } = placed
  return (
    <div className={lane.ground ? 'lane ground' : 'lane'} data-lane={lane.id} style={{ height: rowsHigh(rows), width: Math.max(width, LEAST_WIDTH) }}>
      {bars.map((bar) => (
        <Bar key={`${bar.span.id} ${bar.x}`} bar={bar} lane={lane} hue={hues.get(bar.span.type)} onSpan={onSpan} boundable={boundable && lane.editable === true} />
      ))}
    </div>
  )
})

interface BarProps {
  bar: PlacedBar
  lane: Lane
  hue: number | undefined
  onSpan: StaveProps['onSpan']
  boundable: boolean
}

const SIGNS = { added: '+', removed: '−', changed: '±', beaten: '' } as const
const SAID = { added: 'new here', removed: 'no longer there', changed: 'another type than before', beaten: 'overruled' } as const

/** "VES" or, for a tagger's, "VES .94"; with a sign for what became of it. */
function letters({ type, probability, change }: StaveSpan): string {
  const code = `${change ? SIGNS[change] : ''}${type}`
  if (probability === null || probability === undefined) return code
  return `${code} ${probability >= 0.995 ? '1' : probability.toFixed(2).slice(1)}`
}

// What its source says of it says more than what became of it; that is in its letters too.
const titleOf = ({ type, why, change }: StaveSpan) => [type, why ?? (change && SAID[change])].filter(Boolean).join(': ')

const sameBar = (one: BarProps, other: BarProps) =>
  one.bar.x === other.bar.x &&
  one.bar.width === other.bar.width &&
  one.bar.row === other.bar.row &&
  one.bar.left === other.bar.left &&
  one.bar.right === other.bar.right &&
  one.bar.span === other.bar.span &&
  one.lane.id === other.lane.id &&
  one.lane.look === other.lane.look &&
  one.hue === other.hue &&
  one.onSpan === other.onSpan &&
  one.boundable === other.boundable

const Bar = memo(function Bar({ bar, lane, hue, onSpan, boundable }: BarProps) {
  const { span, left, right } = bar
  const solid = lane.look === 'bar'
  const doubtful = span.probability !== null && span.probability !== undefined && span.probability < 0.5
  const kinds = ['bar', solid ? 'solid' : lane.look, !left && 'openLeft', !right && 'openRight', span.change, doubtful && 'doubtful']
  const gone = span.change === 'removed'
  return (
    <div
      className={kinds.filter(Boolean).join(' ')}
      title={titleOf(span)}
      data-span={span.id}
      onClick={onSpan && (() => onSpan(span, lane))}
      style={{
        left: bar.x,
        width: bar.width,
        top: `calc(var(--chakra-sizes-lane) * ${bar.row} + 3px)`,
        [solid ? 'background' : 'color']: hueColour(gone ? undefined : hue),
        cursor: onSpan ? 'pointer' : 'default',
      }}
    >
      {boundable && left && <i className="tick left" data-tick={left} data-of={span.id} />}
      {lane.look === 'dimension' ? (
        <>
          <i className="rule" />
          <span>{letters(span)}</span>
          <i className="rule" />
        </>
      ) : (
        letters(span)
      )}
      {boundable && right && <i className="tick right" data-tick={right} data-of={span.id} />}
    </div>
  )
}, sameBar)
