import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { memo, useState } from 'react'

import { CodePoints } from '../../api/offsets'
import { useProject } from '../../api/project'
import type { DeskSentenceShown } from '../../api/schema'
import { LinkAct } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { TypeCode } from '../../parts/signs'
import { later } from '../../parts/later'
import { plural } from '../../parts/words'
import type { Range } from './edits'
import { elsewhereQuery } from './queries'

const ReadElsewhere = later(async () => (await import('./ReadElsewhere')).ReadElsewhere)

interface ElsewhereProps {
  sentence: DeskSentenceShown
  range: Range
  hues: ReadonlyMap<string, number>
  /** Mark all like the span under the cursor, where there is one. */
  onAlike?: (() => void) | undefined
}

/** How the selected words were signed before. */
export const Elsewhere = memo(function Elsewhere({ sentence, range, hues, onAlike }: ElsewhereProps) {
  const project = useProject()
  const [open, setOpen] = useState(false)
  const inside = sentence.start <= range.start && range.end <= sentence.end
  const told = useQuery({ ...elsewhereQuery(project, sentence.id, range), enabled: inside }).data
  const words = new CodePoints(sentence.words, sentence.start).slice(range.start, range.end)
  return (
    <Box>
      <Heading>Same words elsewhere · {words}</Heading>
      {!told && <Box color="second">Loading…</Box>}
      {told?.sentences === 0 && <Box color="second">No signed sentence has them.</Box>}
      {told && told.sentences > 0 && (
        <>
          <Counts lead="signed as" counts={told.as_span} hues={hues} />
          <Counts lead="as part of" counts={told.inside} hues={hues} />
          {told.bare > 0 && <Box>unmarked {times(told.bare)}</Box>}
          <LinkAct onClick={() => setOpen(true)}>read {plural(told.sentences, 'sentence')}</LinkAct>
        </>
      )}
      {onAlike && (
        <Box>
          <LinkAct onClick={onAlike}>mark all like this in unsigned sentences</LinkAct>
        </Box>
      )}
      {open && <ReadElsewhere sentence={sentence} range={range} words={words} hues={hues} onClose={() => setOpen(false)} />}
    </Box>
  )
})

const times = (count: number) => (count === 1 ? 'once' : count === 2 ? 'twice' : plural(count, 'time'))

function Counts({ lead, counts, hues }: { lead: string; counts: Record<string, number>; hues: ReadonlyMap<string, number> }) {
  const listed = Object.entries(counts).sort(([, a], [, b]) => b - a)
  if (listed.length === 0) return null
  return (
    <Box>
      {lead}{' '}
      {listed.map(([code, count], i) => (
        <span key={code}>
          {i > 0 && ', '}
          <TypeCode code={code} hue={hues.get(code)} /> {times(count)}
        </span>
      ))}
    </Box>
  )
}
