import { memo, type PointerEvent, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'

import { CodePoints } from '../api/offsets'
import { boundAt, keyOf, type Lane, place, type Range, setText, type StaveSpan, tokenNear } from './layout'
import { measureText, useFontTurn } from './measure'
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
  const { words, start, tokens, lanes, differing = NOWHERE, hues, selection, onSelect } = props
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

  // The cursor is never out of sight, and its line is shown with its lanes.
  const head = selection?.head
  useEffect(() => {
    if (head !== undefined) frame.current?.closest('.stave')?.querySelector('[data-cursor]')?.closest('.system')?.scrollIntoView({ block: 'nearest' })
  }, [head, selection?.anchor, words])

  const drawn = useMemo(
    () =>
      dragged
        ? lanes.map((lane) =>
            lane.kind === 'gold'
              ? { ...lane, spans: lane.spans.map((s) => (keyOf(s) === keyOf(dragged.span) ? { ...s, ...dragged.bounds } : s)) }
              : lane,
          )
        : lanes,
    [lanes, dragged],
  )
  const lines = useMemo(
    () => setText(words, start, tokens, Math.max(width, LEAST_WIDTH), measureText),
    // `turn` says that the face has changed its widths.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [words, start, tokens, width, turn],
  )
  const systems = useMemo(() => place(lines, drawn, differing), [lines, drawn, differing])

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
    <div className="stave" data-stave onPointerDown={down} onPointerMove={move} onPointerUp={up} onPointerCancel={cancel}>
      <div className="spoken">
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
const NOWHERE: readonly StaveSpan[] = []

const SpanList = memo(function SpanList({ lanes, words, start }: { lanes: readonly Lane[]; words: string; start: number }) {
  return (
    <ul>
      {lanes.map((lane) => (
        <LaneList key={lane.name} lane={lane} words={words} start={start} />
      ))}
    </ul>
  )
})

const LaneList = memo(function LaneList({ lane, words, start }: { lane: Lane; words: string; start: number }) {
  const points = new CodePoints(words, start)
  return lane.spans.map((span) => (
    <li key={keyOf(span)}>{`${lane.label}: ${span.type} “${points.slice(span.start, span.end)}”`}</li>
  ))
})

/** The token in which a code point before `offset` lies. */
function tokenHolding(tokens: readonly Range[], offset: number): Range | undefined {
  return tokens.find((t) => t.start < offset && offset <= t.end)
}
