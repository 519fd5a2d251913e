import { useVirtualizer } from '@tanstack/react-virtual'
import { type KeyboardEvent, type ReactNode, useEffect, useId, useLayoutEffect, useReducer, useRef } from 'react'

import { messageOf } from '../api/client'
import { QuietAct } from './controls'
import type { Rest } from './usePages'

// So many rows before an end is in sight the next page is asked for.
const AHEAD = 30

interface RowListProps<T> {
  rows: readonly T[]
  keyOf: (row: T) => number
  chosen: number | null
  onChoose: (row: T) => void
  /** Estimated height of a row in pixels; rows are measured once drawn, unless all are `even`. */
  height: number
  even?: boolean
  label: string
  children: (row: T, isChosen: boolean) => ReactNode
  /** Where the list comes in pages: how the next one comes. */
  rest?: Rest | undefined
  /** These rows stand until those come that were asked for. */
  passing?: boolean
}

/** A long list that draws only what is seen. The chosen row is kept in view; up and down choose another. */
export function RowList<T>({ rows, keyOf, chosen, onChoose, height, label, children, rest, even = false, passing = false }: RowListProps<T>) {
  const frame = useRef<HTMLDivElement>(null)
  const id = useId()
  const [, redraw] = useReducer((turn: number) => turn + 1, 0)
  const at = rows.findIndex((row) => keyOf(row) === chosen)
  // eslint-disable-next-line react-hooks/incompatible-library -- the list is not memoised
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => height,
    getItemKey: (i) => keyOf(rows[i] as T),
    overscan: 12,
    // Some of what comes before and after the chosen row stays in view.
    scrollPaddingStart: 2 * height,
    scrollPaddingEnd: 4 * height,
    // As high as the page, until it is known how high it is: rows are there with the frame, not after it.
    initialRect: { width: 0, height: window.innerHeight },
    initialOffset: () => Math.max(0, (at - 4) * height),
  })
  const place = useRef(at)
  useLayoutEffect(() => {
    place.current = at
  })
  const isListed = at >= 0
  useEffect(() => {
    if (isListed) virtual.scrollToIndex(place.current, { align: 'auto' })
    // Only when another row is chosen: the reader's own scrolling is left alone.
  }, [chosen, isListed, virtual])
  // Rows that come or go before what is in sight do not move it.
  const before = useRef(rows)
  useLayoutEffect(() => {
    const by = shifted(before.current, rows, keyOf)
    before.current = rows
    if (by === 0 || !frame.current) return
    frame.current.scrollTop += by * height
    // Told at once: the event of scrolling comes a frame later, and that frame would be drawn blank.
    virtual.scrollOffset = frame.current.scrollTop
    redraw()
  }, [rows, keyOf, height, virtual])
  const step = (event: KeyboardEvent) => {
    const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
    const row = by !== 0 && !event.ctrlKey && !event.altKey && stepped(rows, keyOf, chosen, by)
    if (!row) return
    event.preventDefault()
    onChoose(row)
  }
  const items = virtual.getVirtualItems()
  const first = items[0]?.index ?? -1
  const last = items.at(-1)?.index ?? -1
  const goesBack = virtual.scrollDirection === 'backward' || at <= AHEAD
  useEffect(() => {
    if (rows.length === 0) return
    if (last >= rows.length - AHEAD) rest?.more()
    if (first <= AHEAD && goesBack) rest?.earlier()
  }, [first, last, goesBack, rows.length, rest])
  return (
    <div
      ref={frame}
      className="rows"
      role="listbox"
      aria-label={label}
      aria-busy={passing || undefined}
      aria-activedescendant={at >= 0 ? `${id}-${chosen}` : undefined}
      tabIndex={0}
      onKeyDown={step}
    >
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {items.map((item) => {
          const row = rows[item.index] as T
          const isChosen = keyOf(row) === chosen
          return (
            <div
              key={item.key}
              id={`${id}-${keyOf(row)}`}
              ref={even ? undefined : virtual.measureElement}
              data-index={item.index}
              role="option"
              aria-selected={isChosen}
              style={{ transform: `translateY(${item.start}px)` }}
              onClick={() => onChoose(row)}
            >
              {children(row, isChosen)}
            </div>
          )
        })}
      </div>
      {rest && <Unfetched rest={rest} />}
    </div>
  )
}

/** At the end of a list whose next page did not come. */
export function Unfetched({ rest: { fault, retry } }: { rest: Rest }) {
  if (fault === null) return null
  return (
    <div className="unfetched" role="alert">
      {messageOf(fault)} <QuietAct onClick={retry}>retry</QuietAct>
    </div>
  )
}

/** By how many rows the list has grown, or shrunk, before its first row that stayed. */
export function shifted<T>(old: readonly T[], rows: readonly T[], keyOf: (row: T) => number): number {
  const [was, is] = [old[0], rows[0]]
  if (was === undefined || is === undefined || keyOf(was) === keyOf(is)) return 0
  const grown = rows.findIndex((row) => keyOf(row) === keyOf(was))
  if (grown > 0) return grown
  const gone = old.findIndex((row) => keyOf(row) === keyOf(is))
  return gone > 0 ? -gone : 0
}

/**
 * The row `step` places after the chosen one, the first or last row at the ends. Without a chosen one the first;
 * nothing for a chosen one that is not among the rows (yet).
 */
export function stepped<T>(rows: readonly T[], keyOf: (row: T) => number, chosen: number | null, step: number): T | undefined {
  if (chosen === null) return rows[0]
  const at = rows.findIndex((row) => keyOf(row) === chosen)
  return at < 0 ? undefined : rows[Math.max(0, Math.min(rows.length - 1, at + step))]
}
