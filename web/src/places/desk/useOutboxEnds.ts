import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'

import { meQuery } from '../../api/project'
import { tell } from '../../parts/notes'
import { open } from './outbox'
import { annotationOf, remember, sendAct, sentenceQuery } from './queries'
import { forget } from './trail'
import { leftAlone } from './useTravel'

/** Connect the outbox with the server for as long as somebody is signed in. */
export function useOutboxEnds(): void {
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
      overtaken: ({ project, sentence }, { state, version, spans, turned_down, question, answer }) => {
        // What the server says of spans beyond their bounds is fetched; until then they stand as they are.
        const shown = (listed: typeof spans) => listed.map((span) => ({ ...span, source: '', probability: null, why: '', maker: '' }))
        if (annotationOf(client, project, sentence)) {
          remember(client, project, sentence, { state, version, question, answer, spans: shown(spans), turned_down: shown(turned_down) })
        }
        void client.invalidateQueries({ queryKey: sentenceQuery(project, sentence).queryKey })
      },
    })
  }, [client, me])
}
