import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useDeferredValue, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'

import { onAnnotation } from '../../api/live'
import { meQuery, schemeQuery, useMayAnnotate, useProject } from '../../api/project'
import type { DeskSentenceShown, QueueItemShown, TypeShown } from '../../api/schema'
import { tell } from '../../parts/notes'
import { differences } from '../../stave/layout'
import type { Selection } from '../../stave/Stave'
import {
  join, mark, type MarkedSpan, nudged, type Range, rangeOf, rebound, removeAt, retype, same, sameSpan, spanAt, split,
  neighbour, tokensOf, without,
} from './edits'
import { lastPending, nextVersion, open, type PendingAct, put, useOutbox } from './outbox'
import { annotationOf, bareSentenceQuery, catchUp, type Order, type Portion, queueQuery, remember, sendAct, sentenceQuery } from './queries'
import { useDeskSettings } from './settings'
import { forget, record, type Stood } from './trail'
import { type Evidence, evidenceOf, resolvedOf } from './useEvidence'
import { leftAlone, useTravel } from './useTravel'
import type { ActOnItsWay } from './wishes'

/** What stands in the open sentence, acts on their way included. */
export interface Standing {
  state: string
  spans: MarkedSpan[]
  turnedDown: MarkedSpan[]
  question: string
  answer: string
}

/** Which sentences of the queue are listed. */
export type Show = 'all' | 'open' | 'asked'

const NO_TYPES: TypeShown[] = []
/** Sentences of a text whose evidence is worth not waiting for. */
const LONG_TEXT = 300

/** The queue with what is on its way laid over it, and which sentence is open. */
export function useQueue(portion: Portion, order: Order, show: Show) {
  const project = useProject()
  const { id } = useParams()
  const query = useInfiniteQuery(queueQuery(project, portion, order))
  const client = useQueryClient()
  useEffect(() => {
    const look = (changed: string) => void catchUp(client, changed).catch(() => undefined)
    // A queue that was kept while one was elsewhere has missed what came in meanwhile.
    look(project)
    return onAnnotation(look)
  }, [client, project])
  // A key shows in its sentence first, then in the queue.
  const pending = useDeferredValue(useOutbox((s) => s.pending))
  const chosen = id === undefined ? null : Number(id)
  // Every page is fetched, one after the other: going on, counting and stepping need the whole queue.
  const { hasNextPage, isFetching, isError, fetchNextPage } = query
  useEffect(() => {
    if (hasNextPage && !isFetching && !isError) void fetchNextPage()
  }, [hasNextPage, isFetching, isError, fetchNextPage])
  const fetched = useMemo(() => query.data?.pages.flatMap((page) => page.items) ?? [], [query.data])
  const all = useMemo(() => laidOver(fetched, pending, project), [fetched, pending, project])
  const items = useMemo(
    () =>
      show === 'all'
        ? all
        : all.filter((item) => (show === 'open' ? item.state !== 'signed' : item.asked) || item.id === chosen),
    [all, show, chosen],
  )
  // Until all is here the server's own count is nearer to the truth than ours.
  const whole = query.data && !hasNextPage
  const page = query.data?.pages.at(-1)
  const counted = useMemo(() => count(all), [all])
  const { total, signed, empty, asked } = (whole ? counted : page) ?? NONE
  const firstOpen = counted.firstOpen ?? (whole ? undefined : page?.first_open) ?? all[0]?.id
  /** The whole queue, as soon as it is here. */
  const everything = useCallback(async () => {
    for (;;) {
      const { data, hasNextPage: more, isError: failed } = await fetchNextPage({ cancelRefetch: false })
      if (!more || failed) return laidOver(data?.pages.flatMap((page) => page.items) ?? [], useOutbox.getState().pending, project)
    }
  }, [fetchNextPage, project])
  /** Is the sentence known to be of a text with few? In reading order only the last text of what is here may lack some. */
  const isShort = (sentence: number) => {
    const text = order.by === 'reading' && order.search === null && all.find((item) => item.id === sentence)?.text_id
    return typeof text === 'number' && (whole === true || all.at(-1)?.text_id !== text) && all.filter((item) => item.text_id === text).length < LONG_TEXT
  }
  return { query, isShort, items, total, signed, empty, asked, firstOpen, chosen, everything: hasNextPage ? everything : null }
}

const NONE = { total: 0, signed: 0, empty: 0, asked: 0 }

function count(items: readonly QueueItemShown[]) {
  const counted = { ...NONE, total: items.length, firstOpen: undefined as number | undefined }
  for (const { id, state, spans, asked } of items) {
    counted.asked += Number(asked)
    if (state === 'signed') {
      counted.signed += 1
      counted.empty += Number(spans === 0)
    } else counted.firstOpen ??= id
  }
  return counted
}

function laidOver(items: readonly QueueItemShown[], pending: readonly PendingAct[], project: string): readonly QueueItemShown[] {
  const last = new Map(pending.filter((act) => act.project === project).map((act) => [act.sentence, act.wish]))
  if (last.size === 0) return items
  return items.map((item): QueueItemShown => {
    const wish = last.get(item.id)
    if (!wish) return item
    const { state, spans, question, answer } = wish
    return { ...item, state, spans: spans.length, asked: question !== '' && answer === '' }
  })
}

/** The open sentence and every act on it. */
export function useSentence(id: number, { items, everything, isShort }: Pick<ReturnType<typeof useQueue>, 'items' | 'everything' | 'isShort'>) {
  const project = useProject()
  const client = useQueryClient()
  const navigate = useNavigate()
  const [search] = useSearchParams()
  const me = useQuery(meQuery).data
  const mayAnnotate = useMayAnnotate()
  const query = useQuery(sentenceQuery(project, id))
  const scheme = useQuery(schemeQuery(project)).data
  const types = scheme?.types ?? NO_TYPES
  const overlap = scheme?.overlap ?? 'apart'
  const pending = useOutbox((s) => s.pending)
  const bare = useQuery({ ...bareSentenceQuery(project, id), enabled: query.isPending && !isShort(id) }).data
  // In other texts the evidence is there so soon that lanes need not come one after the other.
  const sentence = query.data ?? (bare && bare.of >= LONG_TEXT ? bare : undefined)
  const isBare = query.data === undefined
  const [selection, setSelection] = useState<Selection>({ anchor: 0, head: 0 })

  // A new sentence begins where `startOf` says; once more when its evidence is there, if nothing has been done until then.
  const [shown, setShown] = useState<Shown | null>(null)
  if (sentence && (shown?.id !== sentence.id || (shown.isBare && !isBare))) {
    const at = startOf(sentence, search.get('at'))
    const isIdle = selection === shown?.at && sentence.annotation.version === shown.version && !lastPending(pending, project, id)
    setShown({ id: sentence.id, isBare, at, version: sentence.annotation.version })
    if (shown?.id !== sentence.id || isIdle) setSelection(at)
  }

  const standing = useMemo((): Standing => {
    const act = lastPending(pending, project, id)
    const { state, spans, turned_down: turnedDown, question, answer } = act?.wish ?? sentence?.annotation ?? NOTHING
    return { state, spans, turnedDown, question, answer }
  }, [pending, project, id, sentence])

  const change = useCallback(
    (kind: string, wanted: Partial<Standing>, verdicts: ActOnItsWay['verdicts'] = []) => {
      if (!sentence || !me) return
      if (!mayAnnotate) {
        tell('You are a reader here: nothing is changed. A lead of the project can make you an annotator.')
        return
      }
      // What has arrived since the last drawing counts, or the next act would contradict our own.
      const known = annotationOf(client, project, id) ?? sentence.annotation
      const version = nextVersion(useOutbox.getState().pending, project, id, known.version)
      const [before, after] = [stoodOf(standing), stoodOf({ ...standing, ...wanted })]
      const token = crypto.randomUUID()
      record(project, { sentence: id, token, before, after })
      put({ project, account: me.id, sentence: id, wish: { ...after, kind, version, verdicts, token } })
    },
    [sentence, me, mayAnnotate, client, project, id, standing],
  )

  const range = sentence && (selection.within ?? rangeOf(sentence.tokens, selection.anchor, selection.head))
  // With nothing but the cursor a span is meant as a whole; with a selection its words.
  const isCursor = selection.anchor === selection.head && !selection.within
  const under = range && spanAt(standing.spans, range)
  const draft = (spans: MarkedSpan[]) => ({ state: 'draft', spans })

  const markAs = (type: string) => {
    if (!range) return
    useDeskSettings.setState({ lastType: type })
    // Where spans may lie within others, a word under the cursor is marked within.
    const whole = overlap === 'apart' && isCursor && under && holdsMore(under, range)
    const spans = whole ? retype(standing.spans, under, type) : mark(standing.spans, range, type, overlap)
    if (!same(spans, standing.spans)) change(whole ? 'change' : 'mark', draft(spans))
  }
  const markAgain = () => {
    const { lastType } = useDeskSettings.getState()
    if (lastType && types.some((t) => t.code === lastType)) markAs(lastType)
    else tell('No type has been marked yet; mark one by its key first.')
  }
  const remove = () => {
    if (!range) return
    const spans = isCursor && under ? without(standing.spans, under) : removeAt(standing.spans, range)
    if (same(spans, standing.spans)) tell('There is no span under the cursor.')
    else change('remove', draft(spans))
  }
  const bounds = (span: MarkedSpan, target: Range | undefined) => {
    if (!sentence) return
    if (!target) {
      tell('The span can go no further that way.')
      return
    }
    const spans = rebound(standing.spans, span, target, overlap)
    if (!same(spans, standing.spans)) change('change', draft(spans))
    const place = tokensOf(sentence.tokens, target)
    if (place) setSelection({ anchor: place[0], head: place[1] })
  }
  /** Move one bound of the span under the cursor by a token. */
  const nudge = (side: 'start' | 'end', by: number) => {
    if (!sentence) return
    if (!under) tell('There is no span under the cursor.')
    else bounds(under, nudged(sentence.tokens, under, side, by))
  }
  const splitHere = () => {
    if (!sentence) return
    const spans = under && split(standing.spans, under, sentence.tokens, selection.head)
    if (spans) change('change', draft(spans))
    else tell('A span is split before the word under the cursor; it has to be one of its later words.')
  }
  const joinNext = () => {
    const spans = under && join(standing.spans, under, overlap)
    if (spans) change('change', draft(spans))
    else tell('There is no span after the one under the cursor to join it with.')
  }

  /** Evidence goes into gold, logged with every source that says it; what gold is then, or undefined if nothing changes. */
  const take = (wanted: readonly MarkedSpan[], all: readonly Evidence[]): MarkedSpan[] | undefined => {
    let spans = standing.spans
    for (const span of wanted) spans = mark(spans, span, span.type, overlap)
    const turnedDown = standing.turnedDown.filter((s) => !wanted.some((t) => sameSpan(s, t)))
    if (same(spans, standing.spans)) {
      tell('That stands in gold already.')
      return undefined
    }
    change('take', { ...draft(spans), turnedDown }, verdicts(wanted, all, true))
    return spans
  }
  /** Evidence is turned down, and is not offered here again; a second time takes that back. */
  const turnDown = (span: MarkedSpan, all: readonly Evidence[]) => {
    const state = standing.state === 'untouched' ? 'draft' : standing.state
    if (standing.turnedDown.some((s) => sameSpan(s, span))) {
      change('offer again', { turnedDown: without(standing.turnedDown, span) })
    } else if (standing.spans.some((s) => sameSpan(s, span))) {
      tell('That stands in gold; remove it there first.')
    } else {
      change('turn down', { state, turnedDown: [...standing.turnedDown, span] }, verdicts([span], all, false))
    }
  }
  const ask = (question: string) => change('ask', { question, answer: '' })
  const answer = (words: string) => change('answer', { answer: words })

  const goTo = (target: QueueItemShown | undefined) => {
    // At once, not when the browser finds the time: somebody is waiting for it.
    if (target) void navigate(`/p/${project}/desk/${target.id}`, { flushSync: true })
  }
  const here = useRef(id)
  useLayoutEffect(() => {
    here.current = id
  })
  const goOn = async () => {
    // From a sentence that a link led to, and that is not in this queue, to the queue's first.
    const after = (queue: readonly QueueItemShown[]) => queue.slice(queue.findIndex((item) => item.id === id) + 1)
    const isOpen = (item: QueueItemShown) => item.state !== 'signed'
    let next = after(items).find(isOpen)
    if (!next) {
      const rest = after(everything ? await everything() : items)
      next = rest.find(isOpen) ?? rest[0]
    }
    // Whoever has gone elsewhere in the meantime stays there.
    if (here.current !== id) return
    if (next) goTo(next)
    else tell('This was the last sentence of the queue.')
  }
  /** Sign with these spans, those that stand there unless others were just taken, and go on. */
  const sign = (spans: readonly MarkedSpan[] = standing.spans) => {
    if (spans.length === 0) {
      if (standing.state === 'signed') void goOn()
      else tell('Nothing is marked here. Ctrl and enter sign the sentence as empty.')
      return
    }
    if (standing.state !== 'signed' || spans !== standing.spans) {
      change('sign', { state: 'signed', spans: [...spans], turnedDown: standing.turnedDown.filter((s) => !spans.some((t) => sameSpan(s, t))) })
    }
    void goOn()
  }
  const signEmpty = () => {
    if (standing.spans.length > 0) {
      tell('This sentence has spans; remove them before you sign it as empty.')
      return
    }
    if (standing.state !== 'signed') change('sign as empty', { state: 'signed' })
    void goOn()
  }
  const unsign = () => {
    if (standing.state !== 'signed') tell('This sentence is not signed.')
    else change('unsign', { state: begun(standing.spans, standing.turnedDown) })
  }

  return {
    query, sentence, isBare, types, standing, selection, setSelection, range, under,
    markAs, markAgain, remove, bounds, nudge, splitHere, joinNext, take, turnDown, ask, answer, sign, signEmpty, unsign, goTo,
    ...useTravel(id),
  }
}

/** The sentence whose beginning the cursor was last put to. */
interface Shown {
  id: number
  isBare: boolean
  at: Selection
  version: number
}

const NOTHING = { state: 'untouched', spans: [], turned_down: [], question: '', answer: '' }

/** The state of an unsigned sentence: what was turned down is work too. */
const begun = (...work: readonly (readonly MarkedSpan[])[]) => (work.some((spans) => spans.length > 0) ? 'draft' : 'untouched')

const stoodOf = ({ state, spans, turnedDown, question, answer }: Standing): Stood => ({
  state, spans: spans.map(plain), turned_down: turnedDown.map(plain), question, answer,
})
const plain = ({ start, end, type }: MarkedSpan): MarkedSpan => ({ start, end, type })
const holdsMore = (span: Range, range: Range) => span.start <= range.start && range.end <= span.end && span.end - span.start > range.end - range.start

function verdicts(spans: readonly MarkedSpan[], all: readonly Evidence[], taken: boolean): ActOnItsWay['verdicts'] {
  return all
    .filter((one) => spans.some((span) => sameSpan(one, span)))
    .map((one) => ({ ...plain(one), source: one.lane, maker: one.maker, taken }))
}

/** Where the cursor stands at first: where a link says, at the first gap, or at the first word. */
function startOf(sentence: DeskSentenceShown, at: string | null): Selection {
  const offset = at === null ? Number.NaN : Number(at)
  const resolved = resolvedOf(sentence, evidenceOf(sentence, useDeskSettings.getState().hidden))
  const { spans, turned_down: down } = sentence.annotation
  const gaps = differences(spans, resolved.filter((span) => !down.some((s) => sameSpan(s, span))))
  const range = Number.isNaN(offset) ? neighbour(resolved.length > 0 ? gaps : [], -1, 1) : { start: offset, end: offset + 1 }
  const tokens = range && tokensOf(sentence.tokens, range)
  return tokens ? { anchor: tokens[0], head: tokens[1] } : { anchor: 0, head: 0 }
}

/** Connect the outbox with the server for as long as the Desk is open. */
export function useOpenOutbox(): void {
  const client = useQueryClient()
  const me = useQuery(meQuery).data
  useEffect(() => {
    if (!me) return
    open(me.id, {
      send: sendAct,
      arrived: ({ project, travel }, { sentence, annotation, left }) => {
        remember(client, project, sentence, annotation)
        if (!left || !travel) return
        forget(project)
        tell(leftAlone(travel.way))
      },
      refused: (act) => {
        forget(act.project)
        void client.invalidateQueries({ queryKey: sentenceQuery(act.project, act.sentence).queryKey })
      },
    })
  }, [client, me])
}

/** What the banner says of acts that wait. */
export function useOutboxState(): { holding: boolean; count: number } {
  const holding = useOutbox((s) => s.holding)
  const count = useOutbox((s) => s.pending.length)
  return { holding: holding && count > 0, count }
}
