import { Box, Flex, VisuallyHidden } from '@chakra-ui/react'
import { memo, type PointerEvent, useLayoutEffect, useMemo, useRef, useState } from 'react'

import { wheel } from '../parts/signs'
import { CodePoints } from '../api/offsets'
import { boundAt, keyOf, type Lane, layOut, type PlacedBar, placeOf, type Range, type StaveSpan, type System, tokenNear } from './layout'
import { measureText, useFontTurn } from './measure'

/** Selected tokens, first and last, both included; `head` is the end that moves. `within` narrows them to code points. */
export interface Selection {
  anchor: number
  head: number
  within?: Range
}

export interface StaveProps {
  words: string
  /** Offset of the sentence in its text's body, in code points. */
  start: number
  tokens: readonly Range[]
  lanes: readonly Lane[]
  /** Where sources differ; drawn as a pale column through all lanes. */
  differing?: readonly StaveSpan[]
  /** Hue of each type's code. */
  hues: ReadonlyMap<string, number>
  selection?: Selection | undefined
  onSelect?: ((selection: Selection) => void) | undefined
  onSpan?: ((span: StaveSpan, lane: Lane) => void) | undefined
  /** A bound of a gold span was dragged elsewhere. */
  onBound?: ((span: StaveSpan, bounds: Range) => void) | undefined
}

/** A bound of a span on its way. */
interface Dragged {
  span: StaveSpan
  side: 'start' | 'end'
  bounds: Range
}

/** The sentence as text with lanes of evidence beneath: the one component that shows spans. */
export const Stave = memo(function Stave(props: StaveProps) {
  const { words, start, tokens, lanes, differing = [], hues, selection, onSelect } = props
  const frame = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  const turn = useFontTurn()
  const dragging = useRef<{ token: number; bound: number | null } | null>(null)
  const [dragged, setDragged] = useState<Dragged | null>(null)

  useLayoutEffect(() => {
    const box = frame.current
    if (!box) return undefined
    const look = () => setWidth(box.clientWidth)
    look()
    const observer = new ResizeObserver(look)
    observer.observe(box)
    return () => observer.disconnect()
  }, [])

  const drawn = useMemo(
    () =>
      dragged
        ? lanes.map((lane) =>
            lane.kind === 'gold'
              ? { ...lane, spans: lane.spans.map((s) => (s === dragged.span ? { ...s, ...dragged.bounds } : s)) }
              : lane,
          )
        : lanes,
    [lanes, dragged],
  )
  const systems = useMemo(
    () => layOut(words, start, tokens, drawn, differing, Math.max(width, 120), measureText),
    // `turn` says that the face has changed its widths.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [words, start, tokens, drawn, differing, width, turn],
  )

  const tokenAt = (event: PointerEvent): number | null => {
    const element = document.elementFromPoint(event.clientX, event.clientY)
    const index = element?.closest<HTMLElement>('[data-token]')?.dataset['token']
    return index === undefined ? null : Number(index)
  }
  /** The code point bound under the pointer, in a token. */
  const boundUnder = (event: PointerEvent, index: number): number | null => {
    const element = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-token]')
    const token = systems.flatMap((system) => system.tokens).find((t) => t.index === index)
    if (!element || !token) return null
    return boundAt(token, event.clientX - element.getBoundingClientRect().left, measureText)
  }
  /** The token in whose column the pointer is, in whichever lane. */
  const tokenBy = (event: PointerEvent): number | null => {
    const rows = [...event.currentTarget.querySelectorAll<HTMLElement>('[data-system]')]
    const row = rows.find((r) => event.clientY <= r.getBoundingClientRect().bottom) ?? rows.at(-1)
    const system = systems[Number(row?.dataset['system'])]
    if (!row || !system) return null
    return tokenNear(system.tokens, event.clientX - row.getBoundingClientRect().left)?.index ?? null
  }
  const down = (event: PointerEvent) => {
    if (!onSelect || event.button !== 0) return
    const tick = (event.target as HTMLElement).closest<HTMLElement>('[data-tick]')
    const span = tick && lanes.find((l) => l.kind === 'gold')?.spans.find((s) => keyOf(s) === tick.dataset['of'])
    if (span && props.onBound) {
      setDragged({ span, side: tick.dataset['tick'] === 'start' ? 'start' : 'end', bounds: span })
      event.currentTarget.setPointerCapture(event.pointerId)
      return
    }
    const token = tokenAt(event)
    if (token === null) return
    const bound = event.altKey || event.ctrlKey ? boundUnder(event, token) : null
    dragging.current = { token, bound }
    onSelect({ anchor: event.shiftKey && selection ? selection.anchor : token, head: token })
    event.currentTarget.setPointerCapture(event.pointerId)
  }
  const move = (event: PointerEvent) => {
    if (dragged) {
      const at = tokens[tokenBy(event) ?? -1]
      if (!at) return
      const bounds =
        dragged.side === 'start'
          ? { start: Math.min(at.start, tokenHolding(tokens, dragged.span.end)?.start ?? at.start), end: dragged.span.end }
          : { start: dragged.span.start, end: Math.max(at.end, tokenHolding(tokens, dragged.span.start + 1)?.end ?? at.end) }
      setDragged({ ...dragged, bounds })
      return
    }
    if (dragging.current === null || !onSelect) return
    const token = tokenAt(event)
    if (token === null) return
    const { token: begun, bound } = dragging.current
    const other = bound === null ? null : boundUnder(event, token)
    const chosen = { anchor: selection?.anchor ?? begun, head: token }
    if (bound === null || other === null || other === bound) onSelect(chosen)
    else onSelect({ ...chosen, within: { start: Math.min(bound, other), end: Math.max(bound, other) } })
  }
  const up = () => {
    dragging.current = null
    if (dragged) props.onBound?.(dragged.span, { start: dragged.bounds.start, end: dragged.bounds.end })
    setDragged(null)
  }
  const cancel = () => {
    dragging.current = null
    setDragged(null)
  }

  const first = selection ? Math.min(selection.anchor, selection.head) : -1
  const last = selection ? Math.max(selection.anchor, selection.head) : -2

  return (
    <Flex direction="column" data-stave css={BARS} onPointerDown={down} onPointerMove={move} onPointerUp={up} onPointerCancel={cancel}>
      <VisuallyHidden>
        <p>{words}</p>
        <SpanList lanes={lanes} words={words} start={start} />
      </VisuallyHidden>
      <Flex>
        <Box w="laneLabel" flexShrink="0" />
        <Box ref={frame} flex="1" />
      </Flex>
      <Box aria-hidden="true">
        {width > 0 &&
          systems.map((system, i) => (
            <SystemView
              key={system.tokens[0]?.start ?? 0}
              number={i}
              system={system}
              hues={hues}
              first={first}
              last={last}
              cursor={selection?.head ?? -1}
              within={selection?.within}
              selectable={onSelect !== undefined}
              onSpan={props.onSpan}
              boundable={props.onBound !== undefined}
            />
          ))}
      </Box>
    </Flex>
  )
})

function SpanList({ lanes, words, start }: { lanes: readonly Lane[]; words: string; start: number }) {
  const points = new CodePoints(words, start)
  return (
    <ul>
      {lanes.flatMap((lane) =>
        lane.spans.map((span) => (
          <li key={`${lane.name}-${span.start}-${span.end}-${span.type}`}>
            {`${lane.label}: ${span.type} “${points.slice(span.start, span.end)}”`}
          </li>
        )),
      )}
    </ul>
  )
}

/** The token in which a code point before `offset` lies. */
function tokenHolding(tokens: readonly Range[], offset: number): Range | undefined {
  return tokens.find((t) => t.start < offset && offset <= t.end)
}

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

function SystemView({ number, system, hues, first, last, cursor, within, selectable, onSpan, boundable }: SystemViewProps) {
  const chosen = system.tokens.filter((t) => t.index >= first && t.index <= last)
  const left = chosen[0]
  const right = chosen.at(-1)
  const from = left && ((within && placeOf(chosen, within.start, measureText)) ?? left.x)
  const to = right && ((within && placeOf(chosen, within.end, measureText)) ?? right.x + right.width)
  const at = system.tokens.find((t) => t.index === cursor)
  return (
    <Flex mb="3.5">
      <Labels lanes={system.lanes} />
      <Box position="relative" flex="1" minW="0" data-system={number}>
        {system.columns.map((column, i) => (
          <Box
            key={i}
            data-differs
            position="absolute"
            top="0.5"
            bottom="0"
            bg="badGround"
            borderRadius="sm"
            mx="-1"
            px="1"
            boxSizing="content-box"
            zIndex="1"
            pointerEvents="none"
            style={{ left: column.x, width: column.width }}
          />
        ))}
        {from !== undefined && to !== undefined && (
          <Box
            data-selection
            position="absolute"
            top="0.5"
            h="marked"
            bg="chosen"
            borderBottomWidth="2px"
            borderColor="ink"
            mx="-0.5"
            px="0.5"
            boxSizing="content-box"
            style={{ left: from, width: to - from }}
          />
        )}
        {at && (
          <Box
            data-cursor
            position="absolute"
            top="0.5"
            h="marked"
            borderBottomWidth="2px"
            borderColor="action"
            mx="-0.5"
            px="0.5"
            boxSizing="content-box"
            style={{ left: at.x, width: at.width }}
          />
        )}
        <Words tokens={system.tokens} selectable={selectable} />
        <Lanes system={system} hues={hues} onSpan={onSpan} boundable={boundable} />
      </Box>
    </Flex>
  )
}

const Labels = memo(function Labels({ lanes }: Pick<System, 'lanes'>) {
  return (
    <Box w="laneLabel" flexShrink="0" pt="textLine" fontSize="tiny" color="second" textAlign="right" pr="2.5" lineHeight="lane">
      {lanes.map(({ lane, rows }) => (
        <div key={lane.name} className={lane.kind === 'gold' ? 'goldLabel' : undefined} style={{ height: `calc(var(--chakra-sizes-lane) * ${rows})` }}>
          {lane.label}
        </div>
      ))}
    </Box>
  )
}, (one, other) => one.lanes.length === other.lanes.length && one.lanes.every((lane, i) => lane.rows === other.lanes[i]?.rows && lane.lane.name === other.lanes[i].lane.name))

// Moving the cursor draws neither the words nor the lanes again: both depend on the layout alone.

const Words = memo(function Words({ tokens, selectable }: { tokens: System['tokens']; selectable: boolean }) {
  return (
    <Box
      position="relative"
      zIndex="2"
      h="textLine"
      fontFamily="text"
      fontSize="stave"
      lineHeight="textLine"
      userSelect={selectable ? 'none' : 'text'}
      cursor={selectable ? 'text' : 'auto'}
      css={{ '& > span': { position: 'absolute', whiteSpace: 'pre' } }}
    >
      {tokens.map((token) => (
        <span key={token.index} data-token={token.index} style={{ left: token.x }}>
          {token.words}
        </span>
      ))}
    </Box>
  )
})

const Lanes = memo(function Lanes({ system, hues, onSpan, boundable }: Pick<SystemViewProps, 'system' | 'hues' | 'onSpan' | 'boundable'>) {
  return (
    <>
      {system.lanes.map(({ lane, rows, bars }) => (
        <Box
          key={lane.name}
          position="relative"
          h="lane"
          borderBottomWidth="1px"
          borderColor="hairline"
          bg={lane.kind === 'gold' ? 'goldGround' : 'transparent'}
          boxSizing="border-box"
          data-lane={lane.name}
          style={{ height: `calc(var(--chakra-sizes-lane) * ${rows})`, width: Math.max(system.width, 60) }}
        >
          {bars.map((bar) => (
            <Bar
              key={`${bar.span.start}-${bar.span.end}-${bar.span.type}`}
              bar={bar}
              lane={lane}
              hue={hues.get(bar.span.type)}
              onSpan={onSpan}
              boundable={boundable}
            />
          ))}
        </Box>
      ))}
    </>
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

// Plain elements, styled once for the whole stave: a sentence has hundreds of them, and they come with every key.
const Bar = memo(function Bar({ bar, lane, hue, onSpan, boundable }: BarProps) {
  const { span } = bar
  const colour = hue === undefined ? SECOND : `var(--chakra-colors-hue-${wheel(hue)})`
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
        [gold ? 'background' : 'color']: span.down ? SECOND : colour,
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

const SECOND = 'var(--chakra-colors-second)'

/** Bars of gold are solid; those of evidence are a rule with a tick at each end and the letters in a gap. */
const BARS = {
  '& .goldLabel': { color: 'gold', fontWeight: 'bold' },
  '& .bar': {
    position: 'absolute',
    zIndex: '2',
    display: 'flex',
    alignItems: 'center',
    justifyContent: 'center',
    height: '3',
    fontSize: 'tiny',
    fontWeight: 'bold',
    lineHeight: '1',
  },
  '& .bar.gold': { color: 'knockout', borderRadius: 'xs' },
  '& .bar.gold.fromBefore': { borderLeftRadius: '0' },
  '& .bar.gold.toAfter': { borderRightRadius: '0' },
  '& .bar > [data-tick]': { position: 'absolute', top: '-4px', bottom: '-4px', width: '8px', cursor: 'ew-resize' },
  '& .bar > [data-tick=start]': { left: '-4px' },
  '& .bar > [data-tick=end]': { right: '-4px' },
  '& .bar.evidence > i': { flex: '1', height: '10px', position: 'relative', borderColor: 'currentcolor' },
  '& .bar.evidence > i::before': { content: '""', position: 'absolute', insetX: '0', top: '4px', borderTop: '1.5px solid' },
  '& .bar.doubtful > i::before, & .bar.down > i::before': { borderTopStyle: 'dashed' },
  '& .bar.evidence:not(.fromBefore) > i:first-of-type': { borderLeft: '2px solid' },
  '& .bar.evidence:not(.toAfter) > i:last-of-type': { borderRight: '2px solid' },
  '& .bar > span': { px: '0.5', whiteSpace: 'nowrap' },
  '& .bar.down > span': { textDecoration: 'line-through' },
} as const
