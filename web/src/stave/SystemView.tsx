import { memo } from 'react'

import { hueColour } from '../parts/signs'
import { keyOf, type Lane, type PlacedBar, type PlacedLane, placeOf, type Range, type StaveSpan, type System } from './layout'
import { measureText } from './measure'
import type { StaveProps } from './Stave'

interface SystemViewProps {
  number: number
  system: System
  hues: ReadonlyMap<string, number>
  first: number
  last: number
  cursor: number
  within: Range | undefined
  selectable: boolean
  onSpan: StaveProps['onSpan']
  boundable: boolean
}

// All in this module are plain elements, styled once under .stave in theme/plain: a sentence has hundreds of them, and
// many come anew with every key.

/** One line of text with its lanes, its selection and its cursor. */
export function SystemView({ number, system, hues, first, last, cursor, within, selectable, onSpan, boundable }: SystemViewProps) {
  const chosen = system.tokens.filter((t) => t.index >= first && t.index <= last)
  const left = chosen[0]
  const right = chosen.at(-1)
  const from = left && ((within && placeOf(chosen, within.start, measureText)) ?? left.x)
  const to = right && ((within && placeOf(chosen, within.end, measureText)) ?? right.x + right.width)
  const at = system.tokens.find((t) => t.index === cursor)
  return (
    <div className={system.lanes.length > 0 ? 'system' : 'system bare'}>
      <Labels lanes={system.lanes} />
      <div className="field" data-system={number}>
        {system.columns.map((column, i) => (
          <div key={i} data-differs style={{ left: column.x, width: column.width }} />
        ))}
        {from !== undefined && to !== undefined && <div data-selection style={{ left: from, width: to - from }} />}
        {at && <div data-cursor style={{ left: at.x, width: at.width }} />}
        <Words tokens={system.tokens} selectable={selectable} />
        {system.lanes.map((placed) => (
          <LaneView key={placed.lane.name} placed={placed} width={system.width} hues={hues} onSpan={onSpan} boundable={boundable} />
        ))}
      </div>
    </div>
  )
}

const rowsHigh = (rows: number) => `calc(var(--chakra-sizes-lane) * ${rows})`

const Labels = memo(function Labels({ lanes }: Pick<System, 'lanes'>) {
  return (
    <div className="labels">
      {lanes.map(({ lane, rows }) => (
        <div key={lane.name} className={lane.kind} style={{ height: rowsHigh(rows) }}>
          {lane.label}
        </div>
      ))}
    </div>
  )
}, (one, other) => one.lanes.length === other.lanes.length && one.lanes.every((lane, i) => lane.rows === other.lanes[i]?.rows && lane.lane.name === other.lanes[i].lane.name))

const Words = memo(function Words({ tokens, selectable }: { tokens: System['tokens']; selectable: boolean }) {
  return (
    <div className={selectable ? 'words selectable' : 'words'}>
      {tokens.map((token) => (
        <span key={token.index} data-token={token.index} style={{ left: token.x }}>
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
    <div className={`lane ${lane.kind}`} data-lane={lane.name} style={{ height: rowsHigh(rows), width: Math.max(width, LEAST_WIDTH) }}>
      {bars.map((bar) => (
        <Bar key={keyOf(bar.span)} bar={bar} lane={lane} hue={hues.get(bar.span.type)} onSpan={onSpan} boundable={boundable} />
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

/** "VES" or, for a tagger's, "VES .94". */
function letters(span: StaveSpan): string {
  const probability = span.probability
  if (probability === null || probability === undefined) return span.type
  return `${span.type} ${probability >= 0.995 ? '1' : probability.toFixed(2).slice(1)}`
}

const sameBar = (one: BarProps, other: BarProps) =>
  one.bar.x === other.bar.x &&
  one.bar.width === other.bar.width &&
  one.bar.row === other.bar.row &&
  one.bar.fromBefore === other.bar.fromBefore &&
  one.bar.toAfter === other.bar.toAfter &&
  one.bar.span === other.bar.span &&
  one.lane.name === other.lane.name &&
  one.hue === other.hue &&
  one.onSpan === other.onSpan &&
  one.boundable === other.boundable

const Bar = memo(function Bar({ bar, lane, hue, onSpan, boundable }: BarProps) {
  const { span } = bar
  const gold = lane.kind === 'gold'
  const doubtful = span.probability !== null && span.probability !== undefined && span.probability < 0.5
  const kinds = ['bar', gold ? 'gold' : 'evidence', bar.fromBefore && 'fromBefore', bar.toAfter && 'toAfter', span.down && 'down', doubtful && 'doubtful']
  return (
    <div
      className={kinds.filter(Boolean).join(' ')}
      title={`${span.type}${span.why ? `: ${span.why}` : ''}${span.down ? ' (turned down)' : ''}`}
      data-span={keyOf(span)}
      onClick={onSpan && (() => onSpan(span, lane))}
      style={{
        left: bar.x,
        width: bar.width,
        top: `calc(var(--chakra-sizes-lane) * ${bar.row} + 3px)`,
        [gold ? 'background' : 'color']: span.down ? hueColour(undefined) : hueColour(hue),
        cursor: onSpan ? 'pointer' : 'default',
      }}
    >
      {gold ? (
        <>
          {boundable && !bar.fromBefore && <i data-tick="start" data-of={keyOf(span)} />}
          {span.type}
          {boundable && !bar.toAfter && <i data-tick="end" data-of={keyOf(span)} />}
        </>
      ) : (
        <>
          <i />
          <span>{letters(span)}</span>
          <i />
        </>
      )}
    </div>
  )
}, sameBar)
