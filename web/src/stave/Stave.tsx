import { memo, type PointerEvent, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'

import { CodePoints } from '../api/offsets'
import { place } from './layout'
import { measureText, useFontTurn } from './measure'
import { boundAt, directionOf, setText, tokenNear } from './setting'
import type { Lane, Range, StaveSpan } from './span'
import { SystemView } from './SystemView'

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
  /** Language of the text, as BCP 47 has it. */
  lang?: string | undefined
  lanes: readonly Lane[]
  /** Where what is compared differs, which its owner knows; drawn as a pale column through all lanes. */
  differing?: readonly Range[]
  /** Hue of each type's code. */
  hues: ReadonlyMap<string, number>
  /** The span that the cursor is on: its bounds are shown through all lanes. */
  focus?: Range | undefined
  selection?: Selection | undefined
  onSelect?: ((selection: Selection) => void) | undefined
  onSpan?: ((span: StaveSpan, lane: Lane) => void) | undefined
  /** The pointer is on a span, or on none any more. */
  onHover?: ((span: StaveSpan | null, lane: Lane | null) => void) | undefined
  /** A bound of a span in an editable lane was dragged elsewhere. */
  onBound?: ((span: StaveSpan, bounds: Range, lane: Lane) => void) | undefined
}

/** A bound of a span on its way. */
interface Dragged {
  lane: string
  span: StaveSpan
  side: 'start' | 'end'
  bounds: Range
}

/** The sentence as text with lanes of spans beneath: the one component that shows spans. */
export const Stave = memo(function Stave(props: StaveProps) {
  const { words, start, tokens, lang, lanes, differing = NOWHERE, hues, focus, selection, onSelect, onHover } = props
  const frame = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  const turn = useFontTurn(words)
  const dragging = useRef<{ token: number; bound: number | null } | null>(null)
  const [dragged, setDragged] = useState<Dragged | null>(null)
  const [hovered, setHovered] = useState<StaveSpan | null>(null)

  useLayoutEffect(() => {
    const box = frame.current
    if (!box) return undefined
    const look = () => setWidth(box.clientWidth)
    look()
    const observer = new ResizeObserver(look)
    observer.observe(box)
    return () => observer.disconnect()
  }, [])

  // The cursor is never out of sight, and its line is shown with its lanes.
  const head = selection?.head
  useEffect(() => {
    if (head !== undefined) frame.current?.closest('.stave')?.querySelector('[data-cursor]')?.closest('.system')?.scrollIntoView({ block: 'nearest' })
  }, [head, selection?.anchor, words])

  const drawn = useMemo(
    () =>
      dragged
        ? lanes.map((lane) =>
            lane.id === dragged.lane ? { ...lane, spans: lane.spans.map((s) => (s.id === dragged.span.id ? { ...s, ...dragged.bounds } : s)) } : lane,
          )
        : lanes,
    [lanes, dragged],
  )
  const lines = useMemo(
    () => setText(words, start, tokens, Math.max(width, LEAST_WIDTH), measureText, lang),
    // `turn` says that the face has changed its widths.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [words, start, tokens, width, turn, lang],
  )
  const systems = useMemo(() => place(lines, drawn, differing, measureText), [lines, drawn, differing])

  /** The lane and the span that an element of ours belongs to. */
  const spanOf = (target: EventTarget, attribute: 'span' | 'of'): { lane: Lane; span: StaveSpan } | null => {
    const element = (target as HTMLElement).closest<HTMLElement>(`[data-${attribute}]`)
    const lane = lanes.find(({ id }) => id === element?.closest<HTMLElement>('[data-lane]')?.dataset['lane'])
    const span = lane?.spans.find(({ id }) => id === element?.dataset[attribute])
    return lane && span ? { lane, span } : null
  }
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
    if (event.button !== 0) return
    const tick = (event.target as HTMLElement).closest<HTMLElement>('[data-tick]')
    const held = tick && spanOf(tick, 'of')
    if (tick && held?.lane.editable && props.onBound) {
      setDragged({ lane: held.lane.id, span: held.span, side: tick.dataset['tick'] === 'start' ? 'start' : 'end', bounds: held.span })
      event.currentTarget.setPointerCapture(event.pointerId)
      return
    }
    if (!onSelect) return
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
    const lane = dragged && lanes.find(({ id }) => id === dragged.lane)
    if (dragged && lane) props.onBound?.(dragged.span, { start: dragged.bounds.start, end: dragged.bounds.end }, lane)
    setDragged(null)
  }
  const cancel = () => {
    dragging.current = null
    setDragged(null)
  }
  const over = (event: PointerEvent) => {
    const held = dragged ? null : spanOf(event.target, 'span')
    if ((held?.span ?? null) === hovered) return
    setHovered(held?.span ?? null)
    onHover?.(held?.span ?? null, held?.lane ?? null)
  }
  const leave = () => {
    if (hovered) onHover?.(null, null)
    setHovered(null)
  }

  const first = selection ? Math.min(selection.anchor, selection.head) : -1
  const last = selection ? Math.max(selection.anchor, selection.head) : -2

  return (
    <div
      className="stave"
      data-stave
      lang={lang}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={cancel}
      onPointerOver={over}
      onPointerLeave={leave}
    >
      <div className="spoken" dir={directionOf(words)}>
        <p>{words}</p>
        <SpanList lanes={lanes} words={words} start={start} />
      </div>
      <div className="system">
        <div className="labels" />
        <div ref={frame} className="field" />
      </div>
      <div aria-hidden="true">
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
              raised={hovered ?? focus}
              selectable={onSelect !== undefined}
              onSpan={props.onSpan}
              boundable={props.onBound !== undefined}
            />
          ))}
      </div>
    </div>
  )
})

const LEAST_WIDTH = 120
const NOWHERE: readonly Range[] = []

const SpanList = memo(function SpanList({ lanes, words, start }: { lanes: readonly Lane[]; words: string; start: number }) {
  return (
    <ul>
      {lanes.map((lane) => (
        <LaneList key={lane.id} lane={lane} words={words} start={start} />
      ))}
    </ul>
  )
})

const CHANGES = { added: 'new', removed: 'gone', changed: 'changed', beaten: 'overruled' } as const

const LaneList = memo(function LaneList({ lane, words, start }: { lane: Lane; words: string; start: number }) {
  const points = new CodePoints(words, start)
  return lane.spans.map((span) => (
    <li key={span.id}>{`${lane.label}: ${span.type} “${points.slice(span.start, span.end)}”${span.change ? `, ${CHANGES[span.change]}` : ''}`}</li>
  ))
})

/** The token in which a code point before `offset` lies. */
function tokenHolding(tokens: readonly Range[], offset: number): Range | undefined {
  return tokens.find((t) => t.start < offset && offset <= t.end)
}
