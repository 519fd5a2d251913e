import { Flex } from '@chakra-ui/react'
import { useCallback, useMemo, useRef, useState } from 'react'
import { Navigate, useNavigate } from 'react-router'

import { useProject } from '../../api/project'
import { Ask } from '../../parts/Ask'
import { useFocusBack } from '../../parts/focus'
import { later } from '../../parts/later'
import { Columns, Empty } from '../../parts/layout'
import { BEGINNING } from './ahead'
import { DeskQueue } from './DeskQueue'
import type { Passage } from './queries'
import { chooseRound } from './settings'
import { Sheet } from './Sheet'
import { useQueue } from './useQueue'
import { useRound } from './useRound'

const Reading = later(async () => (await import('./Reading')).Reading)

/** Mark spans, sign the sentence, go on. */
export function Desk() {
  const round = useRound()
  return round === undefined ? null : <AtWork round={round} />
}

function AtWork({ round }: { round: number | null }) {
  const project = useProject()
  const navigate = useNavigate()
  const [rest, setRest] = useState(BEGINNING)
  const passage = useMemo(() => ({ ...rest, round }), [rest, round])
  const queue = useQueue(passage)
  const frame = useRef<HTMLDivElement>(null)
  useFocusBack(frame)
  const onPassage = useCallback(
    ({ round: chosen, ...others }: Passage) => {
      setRest(others)
      if (chosen === round) return
      chooseRound(project, chosen)
      // To the first sentence there that is not signed.
      void navigate(`/p/${project}/desk`)
    },
    [project, round, navigate],
  )
  const [reading, setReading] = useState(false)
  const open = (sentence: number) => {
    setReading(false)
    void navigate(`/p/${project}/desk/${sentence}`)
  }
  const { chosen, firstOpen } = queue
  if (chosen === null && firstOpen !== undefined) {
    return <Navigate to={`/p/${project}/desk/${firstOpen}`} replace />
  }
  const left = <DeskQueue queue={queue} passage={passage} onPassage={onPassage} />
  return (
    <Flex ref={frame} data-work h="full" css={{ '& > .columns': { flex: '1', minWidth: '0' } }}>
      {chosen !== null && reading ? (
        <Reading id={chosen} left={left} onOpen={open} />
      ) : chosen === null ? (
        <Columns left={left}>
          <Ask query={queue.query}>
            {() => <Empty>There is nothing to annotate here. Add a text under Texts, or choose another round, split or search.</Empty>}
          </Ask>
        </Columns>
      ) : (
        <Sheet id={chosen} queue={queue} left={left} onRead={() => setReading(true)} />
      )}
    </Flex>
  )
}
