import { Box } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useMemo } from 'react'

import { schemeQuery, useProject } from '../../api/project'
import { Act, QuietAct } from '../../parts/controls'
import { Window } from '../../parts/Window'
import { differences, type Lane } from '../../stave/layout'
import { Stave } from '../../stave/Stave'
import { type Conflict, settle, useOutbox } from './outbox'
import { sentenceQuery } from './queries'
import { stateWords } from './SheetHead'

/** Two people on one sentence: both versions in a stave, and a choice. */
export function Conflicts() {
  const conflict = useOutbox((s) => s.conflict)
  return conflict ? <Choice conflict={conflict} /> : null
}

function Choice({ conflict }: { conflict: Conflict }) {
  const project = useProject()
  const client = useQueryClient()
  const sentence = useQuery(sentenceQuery(project, conflict.act.sentence)).data
  const types = useQuery(schemeQuery(project)).data?.types
  const hues = useMemo(() => new Map(types?.map((t) => [t.code, t.hue])), [types])
  const { theirs, act } = conflict
  const lanes = useMemo(
    (): Lane[] => [
      { name: 'theirs', label: 'There now', kind: 'evidence', spans: theirs.spans },
      { name: 'yours', label: 'Yours', kind: 'evidence', spans: act.wish.spans },
    ],
    [theirs, act],
  )
  const differing = useMemo(() => differences(theirs.spans, act.wish.spans), [theirs, act])
  const choose = (mine: boolean) => {
    settle(mine)
    void client.invalidateQueries({ queryKey: ['p', project, 'desk'] })
  }
  return (
    <Window
      title="This sentence has two versions"
      wide
      onClose={() => choose(false)}
      footer={
        <>
          <QuietAct onClick={() => choose(false)}>keep what is there now</QuietAct>
          <Act onClick={() => choose(true)}>put mine in its place</Act>
        </>
      }
    >
      <Box mb="3" color="second">
        {theirs.by} changed it while you worked on it; there it is {stateWords(theirs.state, theirs.spans.length)}. Nothing is lost yet:
        choose which version stands.
      </Box>
      {sentence && (
        <Stave words={sentence.words} start={sentence.start} tokens={sentence.tokens} lanes={lanes} differing={differing} hues={hues} />
      )}
    </Window>
  )
}
