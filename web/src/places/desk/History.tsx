import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { CodePoints } from '../../api/offsets'
import { useProject } from '../../api/project'
import type { ActShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { TypeCode } from '../../parts/signs'
import { Window } from '../../parts/Window'
import { moment, plural } from '../../parts/words'
import { historyQuery, sentenceQuery } from './queries'

type Logged = [start: number, end: number, type: string]

interface Side {
  state?: string
  spans?: Logged[]
  turned_down?: Logged[]
  question?: string
  answer?: string
}

interface Difference {
  sign: '+' | '−'
  code: string
  words: string
}

/** Spans that an act brought and took away. */
function differences(before: readonly Logged[], after: readonly Logged[], points: CodePoints): Difference[] {
  const listed = (one: readonly Logged[], other: readonly Logged[], sign: '+' | '−') =>
    one
      .filter((span) => !other.some((o) => o.join() === span.join()))
      .map(([start, end, code]): Difference => ({ sign, code, words: points.slice(start, end) }))
  return [...listed(before, after, '−'), ...listed(after, before, '+')]
}

/** Who did what in a sentence. */
export function History({ sentence, hues, onClose }: { sentence: number; hues: ReadonlyMap<string, number>; onClose: () => void }) {
  const project = useProject()
  const query = useQuery({ ...historyQuery(project, sentence), staleTime: 0 })
  const open = useQuery(sentenceQuery(project, sentence)).data
  const points = new CodePoints(open?.words ?? '', open?.start)
  return (
    <Window title="History of this sentence" reads onClose={onClose}>
      <Ask query={query}>
        {(acts) =>
          acts.length === 0 ? (
            <Box color="second" pb="4">
              Nobody has touched this sentence yet.
            </Box>
          ) : (
            <Box pb="4">
              {acts.map((act) => (
                <Entry key={act.id} act={act} points={points} hues={hues} />
              ))}
            </Box>
          )
        }
      </Ask>
    </Window>
  )
}

function Entry({ act, points, hues }: { act: ActShown; points: CodePoints; hues: ReadonlyMap<string, number> }) {
  const before = act.before as Side
  const after = act.after as Side
  const spans = differences(before.spans ?? [], after.spans ?? [], points)
  const down = differences(before.turned_down ?? [], after.turned_down ?? [], points)
  const said = [
    after.question && after.question !== before.question ? `“${after.question}”` : '',
    after.answer && after.answer !== before.answer ? `“${after.answer}”` : '',
  ].filter(Boolean)
  return (
    <Box py="1" borderBottomWidth="1px" borderColor="hairline">
      <Flex justify="space-between" gap="4">
        <Box>
          {act.who} · {act.kind}
        </Box>
        <Box color="second" flexShrink="0">
          {plural(after.spans?.length ?? 0, 'span')} · {moment(act.at)}
        </Box>
      </Flex>
      {spans.map(({ sign, code, words }) => (
        <Box key={sign + code + words} pl="3">
          {sign} <TypeCode code={code} hue={hues.get(code)} /> {words}
        </Box>
      ))}
      {down.map(({ sign, code, words }) => (
        <Box key={sign + code + words} pl="3" color="second">
          {sign === '+' ? 'turned down' : 'offered again'}: <TypeCode code={code} hue={hues.get(code)} /> {words}
        </Box>
      ))}
      {said.map((words) => (
        <Box key={words} pl="3">
          {words}
        </Box>
      ))}
    </Box>
  )
}
