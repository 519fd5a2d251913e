import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'

import { ProblemError } from '../../api/client'
import { meQuery, schemeQuery, useProject } from '../../api/project'
import type { DeskSentenceShown, QueueItemShown, QueuePage, TypeShown } from '../../api/schema'
import { tell, tellError } from '../../parts/notes'
import type { Selection } from '../../stave/Stave'
import { type MarkedSpan, mark, rangeOf, removeAt, same, tokensOf } from './edits'
import { flush, lastPending, nextVersion, open, type PendingAct, put, useOutbox } from './outbox'
import { queueQuery, remember, sendAct, sentenceQuery, travel } from './queries'

export interface Standing {
  state: string
  spans: MarkedSpan[]
}

const NO_TYPES: TypeShown[] = []

/** The queue with what is on its way laid over it, and which sentence is open. */
export function useQueue(split: string, openOnly: boolean) {
  const project = useProject()
  const { id } = useParams()
  const query = useInfiniteQuery(queueQuery(project, split))
  const pending = useOutbox((s) => s.pending)
  const chosen = id === undefined ? null : Number(id)
  // Every page is fetched, one after the other: going on, counting and stepping need the whole queue.
  const { hasNextPage, isFetching, isError, fetchNextPage } = query
  useEffect(() => {
    if (hasNextPage && !isFetching && !isError) void fetchNextPage()
  }, [hasNextPage, isFetching, isError, fetchNextPage])
  const all = useMemo(() => laidOver(query.data?.pages ?? [], pending, project), [query.data, pending, project])
  const items = useMemo(
    () => (openOnly ? all.filter((item) => item.state !== 'signed' || item.id === chosen) : all),
    [all, openOnly, chosen],
  )
  // Until all is here the server's own count is nearer to the truth than ours.
  const whole = query.data && !hasNextPage
  const page = query.data?.pages.at(-1)
  const total = whole ? all.length : (page?.total ?? 0)
  const signed = whole ? all.filter((item) => item.state === 'signed').length : (page?.signed ?? 0)
  const firstOpen = all.find((item) => item.state !== 'signed')?.id ?? (whole ? undefined : page?.first_open) ?? all[0]?.id
  /** The whole queue, as soon as it is here. */
  const everything = useCallback(async () => {
    for (;;) {
      const { data, hasNextPage: more, isError: failed } = await fetchNextPage({ cancelRefetch: false })
      if (!more || failed) return laidOver(data?.pages ?? [], useOutbox.getState().pending, project)
    }
  }, [fetchNextPage, project])
  return { query, items, total, signed, firstOpen, chosen, everything: hasNextPage ? everything : null }
}

function laidOver(pages: readonly QueuePage[], pending: readonly PendingAct[], project: string): QueueItemShown[] {
  return pages.flatMap((page) =>
    page.items.map((item): QueueItemShown => {
      const act = lastPending(pending, project, item.id)
      return act ? { ...item, state: act.wish.state, spans: act.wish.spans.length } : item
    }),
  )
}

/** The open sentence and every act on it. */
export function useSentence(id: number, { items, everything }: Pick<ReturnType<typeof useQueue>, 'items' | 'everything'>) {
  const project = useProject()
  const client = useQueryClient()
  const navigate = useNavigate()
  const [search] = useSearchParams()
  const me = useQuery(meQuery).data
  const query = useQuery(sentenceQuery(project, id))
  const types = useQuery(schemeQuery(project)).data?.types ?? NO_TYPES
  const pending = useOutbox((s) => s.pending)
  const sentence = query.data
  const [selection, setSelection] = useState<Selection>({ anchor: 0, head: 0 })

  // A new sentence begins at its first word, or at the word that a link names.
  const [shownFor, setShownFor] = useState<number | null>(null)
  if (sentence && shownFor !== sentence.id) {
    setShownFor(sentence.id)
    setSelection(startOf(sentence, search.get('at')))
  }

  const standing = useMemo((): Standing => {
    const act = lastPending(pending, project, id)
    if (act) return { state: act.wish.state, spans: act.wish.spans }
    return { state: sentence?.annotation.state ?? 'untouched', spans: sentence?.annotation.spans ?? [] }
  }, [pending, project, id, sentence])

  const change = useCallback(
    (kind: string, state: string, spans: readonly MarkedSpan[]) => {
      if (!sentence || !me) return
      // What has arrived since the last drawing counts, or the next act would contradict our own.
      const known = client.getQueryData(sentenceQuery(project, id).queryKey) ?? sentence
      const version = nextVersion(useOutbox.getState().pending, project, id, known.annotation.version)
      const plain = spans.map(({ start, end, type }) => ({ start, end, type }))
      put({
        project,
        account: me.id,
        sentence: id,
        wish: { kind, state, spans: plain, version, token: crypto.randomUUID() },
      })
    },
    [sentence, me, client, project, id],
  )

  const range = sentence && rangeOf(sentence.tokens, selection.anchor, selection.head)

  const markAs = (type: string) => {
    if (!range) return
    const spans = mark(standing.spans, range, type)
    if (!same(spans, standing.spans)) change('mark', 'draft', spans)
  }
  const remove = () => {
    if (!range) return
    const spans = removeAt(standing.spans, range)
    if (same(spans, standing.spans)) tell('There is no span under the cursor.')
    else change('remove', spans.length > 0 ? 'draft' : 'untouched', spans)
  }
  const take = (span: MarkedSpan) => {
    change('mark', 'draft', mark(standing.spans, span, span.type))
  }
  const goTo = (target: QueueItemShown | undefined) => {
    if (target) void navigate(`/p/${project}/desk/${target.id}`)
  }
  const here = useRef(id)
  useLayoutEffect(() => {
    here.current = id
  })
  const goOn = async () => {
    const after = (queue: readonly QueueItemShown[]) => {
      const at = queue.findIndex((item) => item.id === id)
      return at < 0 ? [] : queue.slice(at + 1)
    }
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
  const sign = () => {
    if (standing.spans.length === 0) {
      if (standing.state === 'signed') void goOn()
      else tell('Nothing is marked here. Ctrl and enter sign the sentence as empty.')
      return
    }
    if (standing.state !== 'signed') change('sign', 'signed', standing.spans)
    void goOn()
  }
  const signEmpty = () => {
    if (standing.spans.length > 0) {
      tell('This sentence has spans; remove them before you sign it as empty.')
      return
    }
    if (standing.state !== 'signed') change('sign as empty', 'signed', [])
    void goOn()
  }
  const unsign = () => change('unsign', standing.spans.length > 0 ? 'draft' : 'untouched', standing.spans)

  const go = async (way: 'undo' | 'redo') => {
    if (!useOutbox.getState().holding) await flush()
    if (useOutbox.getState().holding) {
      tell('The server is out of reach; undo works again when what waits has been sent.')
      return
    }
    try {
      const done = await travel[way](project)
      remember(client, project, done.sentence_id, done.annotation)
      if (done.sentence_id !== id) await navigate(`/p/${project}/desk/${done.sentence_id}`)
    } catch (error) {
      if (error instanceof ProblemError && error.status === 404) tell(error.message)
      else tellError(error)
    }
  }

  return {
    query, sentence, types, standing, selection, setSelection, range,
    markAs, remove, take, sign, signEmpty, unsign, goTo,
    undo: () => void go('undo'), redo: () => void go('redo'),
  }
}

function startOf(sentence: DeskSentenceShown, at: string | null): Selection {
  const offset = at === null ? Number.NaN : Number(at)
  const tokens = Number.isNaN(offset) ? undefined : tokensOf(sentence.tokens, { start: offset, end: offset + 1 })
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
      arrived: (act, annotation) => remember(client, act.project, act.sentence, annotation),
      refused: (act, error) => {
        tellError(error)
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
