import { Box, Grid } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'

import { projectQuery, schemeQuery } from '../../api/project'
import { Act, QuietAct } from '../../parts/controls'
import { Window } from '../../parts/Window'
import { differences, type Lane, otherLane } from '../../stave/span'
import { Stave } from '../../stave/Stave'
import { type Conflict, onTop } from './conflict'
import { settle, useOutbox } from './outbox'
import { sentenceQuery } from './queries'
import { stateWords } from './SheetHead'
import type { Stood } from './wishes'

/** Two people on one sentence: both versions, and a choice. It stands wherever one is, until the choice is made. */
export function Conflicts() {
  const conflict = useOutbox((s) => s.conflicts[0])
  return conflict ? <Choice conflict={conflict} /> : null
}

function Choice({ conflict }: { conflict: Conflict }) {
  const { theirs, acts } = conflict
  const { project = '', sentence: id = 0 } = acts[0] ?? {}
  const sentence = useQuery(sentenceQuery(project, id)).data
  const types = useQuery(schemeQuery(project)).data?.types
  const { name, language } = useQuery(projectQuery(project)).data ?? {}
  const hues = useMemo(() => new Map(types?.map((t) => [t.code, t.hue])), [types])
  const mine: Stood = useMemo(() => onTop(conflict).at(-1)?.wish ?? conflict.theirs, [conflict])
  const lanes = useMemo(
    (): Lane[] => [
      otherLane('theirs', 'There now', theirs.spans),
      otherLane('yours', 'Yours', mine.spans),
    ],
    [theirs, mine],
  )
  const differing = useMemo(() => differences(theirs.spans, mine.spans), [theirs, mine])
  return (
    <Window
      title="This sentence has two versions"
      wide
      footer={
        <>
          <QuietAct onClick={() => settle(false)}>leave theirs</QuietAct>
          <Act onClick={() => settle(true)}>replace it with mine</Act>
        </>
      }
    >
      <Box mb="3" color="second">
        {theirs.by} changed it while you worked on it. Nothing is lost yet: choose which version stands.
        {sentence && ` It is sentence ${sentence.number + 1} of ${sentence.text.title}${name ? `, project ${name}` : ''}.`}
      </Box>
      {sentence && (
        <Stave words={sentence.words} start={sentence.start} tokens={sentence.tokens} lang={language} lanes={lanes} differing={differing} hues={hues} />
      )}
      <Grid templateColumns="auto 1fr" columnGap="4" rowGap="1" mt="3" fontSize="small">
        <b>There now</b>
        <Said stood={theirs} />
        <b>Yours</b>
        <Said stood={mine} />
      </Grid>
    </Window>
  )
}

/** What a version says beside its spans. */
function Said({ stood: { state, spans, turned_down: down, question, answer } }: { stood: Stood }) {
  const said = [
    stateWords(state, spans.length),
    down.length > 0 && `turned down: ${down.map(({ type }) => type).join(', ')}`,
    question && `question “${question}”`,
    answer && `answer “${answer}”`,
  ]
  return <Box>{said.filter(Boolean).join(' · ')}</Box>
}
