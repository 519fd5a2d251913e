import { Box } from '@chakra-ui/react'
import { useState } from 'react'
import { Navigate, useNavigate } from 'react-router'

import { useProject } from '../../api/project'
import { Columns, Empty } from '../../parts/layout'
import { DeskQueue, type Passage } from './DeskQueue'
import { Conflicts } from './Conflicts'
import { Reading } from './Reading'
import { Sheet } from './Sheet'
import { useOpenOutbox, useOutboxState, useQueue } from './useDesk'

/** Mark spans, sign the sentence, go on. */
export function Desk() {
  const project = useProject()
  const [passage, setPassage] = useState<Passage>({ split: '', show: 'all', order: { by: 'reading', seed: 1, turn: 0, search: null } })
  const queue = useQueue(passage.split, passage.order, passage.show)
  const outbox = useOutboxState()
  useOpenOutbox()
  const [reading, setReading] = useState(false)
  const navigate = useNavigate()
  const open = (sentence: number) => {
    setReading(false)
    void navigate(`/p/${project}/desk/${sentence}`)
  }
  const { chosen, firstOpen } = queue
  if (chosen === null && firstOpen !== undefined) {
    return <Navigate to={`/p/${project}/desk/${firstOpen}`} replace />
  }
  const left = <DeskQueue queue={queue} passage={passage} onPassage={setPassage} />
  return (
    <Box h="full" position="relative">
      {outbox.holding && (
        <Box position="absolute" insetX="0" top="0" zIndex="docked" bg="goldGround" color="gold" textAlign="center" fontSize="small" role="status">
          The server is out of reach. {outbox.count} {outbox.count === 1 ? 'act waits' : 'acts wait'} here and will be
          sent; go on working.
        </Box>
      )}
      {chosen !== null && reading ? (
        <Reading id={chosen} left={left} onOpen={open} />
      ) : chosen === null ? (
        <Columns left={left}>
          {queue.query.isSuccess && (
            <Empty>There is nothing to annotate here. Add a text under Texts, or choose another split or search.</Empty>
          )}
        </Columns>
      ) : (
        <Sheet id={chosen} queue={queue} left={left} onRead={() => setReading(true)} />
      )}
      <Conflicts />
    </Box>
  )
}
