import { type QueryClient, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useLayoutEffect, useMemo, useRef } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { useStore } from 'zustand'

import { messageOf } from '../../api/client'
import { meQuery, schemeQuery, useMayAnnotate, useProject } from '../../api/project'
import type { QueueItemShown, TypeShown } from '../../api/schema'
import { tell } from '../../parts/notes'
import { selectedRange } from './cursor'
import { spanAt } from './edits'
import { nextVersion, put, useOutbox } from './outbox'
import { nextOpen } from './queue'
import { annotationOf, bareSentenceQuery, sentenceQuery } from './queries'
import { DeskSession, type World } from './session'
import { useDeskSettings } from './settings'
import { standingOf } from './standing'
import { record } from './trail'
import { LONG_TEXT, type Queue } from './useQueue'
import { useTravel } from './useTravel'

const NO_TYPES: TypeShown[] = []
const READER = 'You are a reader here: nothing is changed. A lead of the project can make you an annotator.'

/** A sentence as a session meets it: what has arrived or was done since the last drawing counts too. */
function worldOf(client: QueryClient, project: string, id: number): World {
  const known = () => annotationOf(client, project, id)
  return {
    tell,
    standing: () => standingOf(useOutbox.getState().pending, project, id, known()),
    hidden: () => useDeskSettings.getState().hidden,
    sure: () => useDeskSettings.getState().sure,
    lastType: () => useDeskSettings.getState().lastType,
    remember: (type) => useDeskSettings.setState({ lastType: type }),
    put: ({ kind, verdicts }, before, after) => {
      const account = client.getQueryData(meQuery.queryKey)?.id
      if (account === undefined) return
      const version = nextVersion(useOutbox.getState().pending, project, id, known()?.version ?? 0)
      const token = crypto.randomUUID()
      record(project, { sentence: id, token, before, after })
      put({ project, account, sentence: id, wish: { ...after, kind, version, verdicts, token } })
    },
  }
}

/** The open sentence with its session: what React draws of it, and whose methods the keys and buttons are. */
export function useDesk(id: number, { items, goOnFrom, isShort }: Pick<Queue, 'items' | 'goOnFrom' | 'isShort'>) {
  const project = useProject()
  const client = useQueryClient()
  const navigate = useNavigate()
  const [search] = useSearchParams()
  const mayAnnotate = useMayAnnotate()
  const query = useQuery(sentenceQuery(project, id))
  const scheme = useQuery(schemeQuery(project)).data
  const types = scheme?.types ?? NO_TYPES
  const pending = useOutbox((s) => s.pending)
  const bare = useQuery({ ...bareSentenceQuery(project, id), enabled: query.isPending && !isShort(id) }).data
  // In other texts the evidence is there so soon that lanes need not come one after the other.
  const sentence = query.data ?? (bare && bare.of >= LONG_TEXT ? bare : undefined)
  const isBare = query.data === undefined

  const goTo = (target: QueueItemShown | undefined) => {
    // At once, not when the browser finds the time: somebody is waiting for it.
    if (target) void navigate(`/p/${project}/desk/${target.id}`, { flushSync: true })
  }
  const here = useRef(id)
  const goOn = async () => {
    let next: QueueItemShown | undefined
    try {
      next = await goOnFrom(id)
    } catch (fault) {
      tell(`It is not known what comes next. ${messageOf(fault)}`)
      return
    }
    // Whoever has gone elsewhere in the meantime stays there.
    if (here.current !== id) return
    if (next) goTo(next)
    else tell('This was the last sentence of the queue.')
  }

  const session = useMemo(() => new DeskSession(worldOf(client, project, id)), [client, project, id])
  const at = search.get('at')
  useLayoutEffect(() => {
    here.current = id
    const page = { sentence, isBare, types, overlap: scheme?.overlap ?? 'apart', refusal: mayAnnotate ? undefined : READER, goOn: () => void goOn() }
    session.connect(page, at === null || Number.isNaN(Number(at)) ? null : Number(at))
  })
  useEffect(
    () => () => {
      here.current = Number.NaN
    },
    [],
  )

  const selection = useStore(session.cursor)
  const standing = useMemo(() => standingOf(pending, project, id, sentence?.annotation), [pending, project, id, sentence])
  const range = sentence && selectedRange(sentence.tokens, selection)
  const under = range && spanAt(standing.spans, range)
  const ahead = useMemo(() => (items.some((item) => item.id === id) ? nextOpen(items, id)?.id : undefined), [items, id])
  return { query, sentence, isBare, types, standing, selection, range, under, session, ahead, goTo, ...useTravel(id) }
}

