import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from 'react-router'

import { ProblemError } from '../../api/client'
import { invalidate } from '../../api/live'
import { meQuery, useProject } from '../../api/project'
import { tell, tellError } from '../../parts/notes'
import { plural } from '../../parts/words'
import { flush, nextVersion, put, useOutbox } from './outbox'
import { annotationOf, catchUp, remember, travel } from './queries'
import { nextStep, passed, type Step, type Way } from './trail'

/** What is said of an act that was left alone. */
export const leftAlone = (way: Way) =>
  `This has been changed since and stays as it is; the next ${way} passes over it.`

/** Undo and redo from the open sentence, across sentences. */
export function useTravel(id: number) {
  const project = useProject()
  const client = useQueryClient()
  const navigate = useNavigate()
  const me = useQuery(meQuery).data

  const goTo = async (sentence: number) => {
    if (sentence !== id) await navigate(`/p/${project}/desk/${sentence}`)
  }

  /** An act of this page: shown at once, sent after those that wait. */
  const goHere = async (way: Way, { sentence, token: of, before, after }: Step, known: number, account: number) => {
    passed(project, way)
    const version = nextVersion(useOutbox.getState().pending, project, sentence, known)
    const wish = { ...(way === 'undo' ? before : after), kind: 'change', version, verdicts: [], token: crypto.randomUUID() }
    put({ project, account, sentence, travel: { way, of }, wish })
    await goTo(sentence)
  }

  /** An act that the server alone knows. */
  const goThere = async (way: Way) => {
    if (useOutbox.getState().line === 'open') await flush()
    if (useOutbox.getState().line !== 'open') {
      tell('The server does not take acts at the moment; earlier ones can be undone when it does.')
      return
    }
    const done = await travel[way](project)
    passed(project, way)
    remember(client, project, done.sentence_id, done.annotation)
    if (done.sentences === 0) tell(leftAlone(way))
    else if (done.sentences + done.left > 1) {
      // The others of that act are looked up again.
      invalidate(client, project, 'desk')
      await catchUp(client, project)
      const others = done.left > 0 ? `; ${plural(done.left, 'sentence')} left alone, because they were changed since` : ''
      tell(`${way === 'undo' ? 'Undone' : 'Redone'} in ${plural(done.sentences, 'sentence')}${others}.`)
    }
    await goTo(done.sentence_id)
  }

  const go = async (way: Way) => {
    const step = nextStep(project, way)
    const known = step && annotationOf(client, project, step.sentence)
    try {
      if (step && known && me) await goHere(way, step, known.version, me.id)
      else await goThere(way)
    } catch (error) {
      if (error instanceof ProblemError && error.status === 404) tell(error.message)
      else tellError(error)
    }
  }
  return { undo: () => void go('undo'), redo: () => void go('redo') }
}
