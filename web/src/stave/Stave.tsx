import { Box, Flex, VisuallyHidden } from '@chakra-ui/react'
import { memo, type PointerEvent, useLayoutEffect, useMemo, useRef, useState } from 'react'

import { hueToken } from '../parts/signs'
import { CodePoints } from '../api/offsets'
import { type Lane, layOut, type PlacedBar, type Range, type StaveSpan, type System } from './layout'
import { measureText, useFontTurn } from './measure'

/** Selected tokens, first and last, both included; `head` is the end that moves. */
export interface Selection {
  anchor: number
  head: number
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
}

/** The sentence as text with lanes of evidence beneath: the one component that shows spans. */
export const Stave = memo(function Stave(props: StaveProps) {
  const { words, start, tokens, lanes, differing = [], hues, selection, onSelect } = props
  const frame = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  const turn = useFontTurn()
  const dragging = useRef<number | null>(null)

  useLayoutEffect(() => {
    const box = frame.current
    if (!box) return undefined
    const look = () => setWidth(box.clientWidth)
    look()
    const observer = new ResizeObserver(look)
    observer.observe(box)
    return () => observer.disconnect()
  }, [])

  const systems = useMemo(
    () => layOut(words, start, tokens, lanes, differing, Math.max(width, 120), measureText),
    // `turn` says that the face has changed its widths.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [words, start, tokens, lanes, differing, width, turn],
  )

  const tokenAt = (event: PointerEvent): number | null => {
    const element = document.elementFromPoint(event.clientX, event.clientY)
    const index = element?.closest<HTMLElement>('[data-token]')?.dataset['token']
    return index === undefined ? null : Number(index)
  }
  const down = (event: PointerEvent) => {
    const token = tokenAt(event)
    if (!onSelect || token === null || event.button !== 0) return
    dragging.current = token
    onSelect({ anchor: event.shiftKey && selection ? selection.anchor : token, head: token })
    event.currentTarget.setPointerCapture(event.pointerId)
  }
  const move = (event: PointerEvent) => {
    if (dragging.current === null || !onSelect) return
    const token = tokenAt(event)
    if (token !== null) onSelect({ anchor: selection?.anchor ?? dragging.current, head: token })
  }
  const up = () => {
    dragging.current = null
  }

  const first = selection ? Math.min(selection.anchor, selection.head) : -1
  const last = selection ? Math.max(selection.anchor, selection.head) : -2

  return (
    <Flex direction="column" data-stave onPointerDown={down} onPointerMove={move} onPointerUp={up} onPointerCancel={up}>
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
          systems.map((system) => (
            <SystemView
              key={system.tokens[0]?.start ?? 0}
              system={system}
              hues={hues}
              first={first}
              last={last}
              cursor={selection?.head ?? -1}
              selectable={onSelect !== undefined}
              onSpan={props.onSpan}
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

interface SystemViewProps {
  system: System
  hues: ReadonlyMap<string, number>
  first: number
  last: number
  cursor: number
  selectable: boolean
  onSpan: StaveProps['onSpan']
}

function SystemView({ system, hues, first, last, cursor, selectable, onSpan }: SystemViewProps) {
  const chosen = system.tokens.filter((t) => t.index >= first && t.index <= last)
  const left = chosen[0]
  const right = chosen.at(-1)
  const at = system.tokens.find((t) => t.index === cursor)
  return (
    <Flex mb="3.5">
      <Box w="laneLabel" flexShrink="0" pt="textLine" fontSize="tiny" color="second" textAlign="right" pr="2.5">
        {system.lanes.map(({ lane, rows }) => (
          <Box
            key={lane.name}
            h="lane"
            lineHeight="lane"
            mb={rows > 1 ? `calc(var(--chakra-sizes-lane) * ${rows - 1})` : '0'}
            {...(lane.kind === 'gold' ? { color: 'gold', fontWeight: 'bold' } : {})}
          >
            {lane.label}
          </Box>
        ))}
      </Box>
      <Box position="relative" flex="1" minW="0">
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
        {left && right && (
          <Box
            position="absolute"
            top="0.5"
            h="marked"
            bg="chosen"
            borderBottomWidth="2px"
            borderColor="ink"
            mx="-0.5"
            px="0.5"
            boxSizing="content-box"
            style={{ left: left.x, width: right.x + right.width - left.x }}
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
        <Lanes system={system} hues={hues} onSpan={onSpan} />
      </Box>
    </Flex>
  )
}

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

const Lanes = memo(function Lanes({ system, hues, onSpan }: Pick<SystemViewProps, 'system' | 'hues' | 'onSpan'>) {
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
}

/** "VES" or, for a tagger's, "VES .94". */
function letters(span: StaveSpan): string {
  const probability = span.probability
  if (probability === null || probability === undefined) return span.type
  return `${span.type} ${probability >= 0.995 ? '1' : probability.toFixed(2).slice(1)}`
}

function Bar({ bar, lane, hue, onSpan }: BarProps) {
  const colour = hue === undefined ? 'second' : hueToken(hue)
  const { span } = bar
  const common = {
    position: 'absolute',
    zIndex: '2',
    display: 'flex',
    alignItems: 'center',
    justifyContent: 'center',
    fontSize: 'tiny',
    fontWeight: 'bold',
    lineHeight: '1',
    title: span.why ? `${span.type}: ${span.why}` : span.type,
    'data-span': `${span.start}-${span.end}-${span.type}`,
    cursor: onSpan ? 'pointer' : 'default',
    onClick: onSpan ? () => onSpan(span, lane) : undefined,
    style: { left: bar.x, width: bar.width, top: `calc(var(--chakra-sizes-lane) * ${bar.row} + 3px)` },
  } as const
  if (lane.kind === 'gold') {
    return (
      <Box {...common} h="3" bg={colour} color="knockout" borderLeftRadius={bar.fromBefore ? '0' : 'xs'} borderRightRadius={bar.toAfter ? '0' : 'xs'}>
        {span.type}
      </Box>
    )
  }
  const doubtful = span.probability !== null && span.probability !== undefined && span.probability < 0.5
  const rule = { flex: '1', borderTopWidth: '1.5px', borderStyle: doubtful ? 'dashed' : 'solid', borderColor: colour } as const
  const tick = { w: '0', h: '2.5', borderLeftWidth: '2px', borderColor: colour } as const
  return (
    <Box {...common} h="3" color={colour}>
      {!bar.fromBefore && <Box {...tick} />}
      <Box {...rule} />
      <Box as="span" px="0.5" whiteSpace="nowrap">
        {letters(span)}
      </Box>
      <Box {...rule} />
      {!bar.toAfter && <Box {...tick} />}
    </Box>
  )
}
