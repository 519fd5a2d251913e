import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'

import { useProject } from '../../api/project'
import type { EntryExplained, EntryShown, ListShown, StaveShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { LinkAct } from '../../parts/controls'
import { Heading, Section } from '../../parts/layout'
import { Facts } from '../../parts/signs'
import { usePages } from '../../parts/usePages'
import { number, plural } from '../../parts/words'
import type { FindOutcome } from '../../stave/Finds'
import { StaveList } from '../../stave/StaveList'
import { whyQuery } from './queries'

const stavesOf = (page: EntryExplained): readonly StaveShown[] => page.finds.staves
const LANES = [
  ['gold', 'Gold'],
  ['lists', 'Entry'],
  ['together', 'Answer'],
] as const

const SOURCES: Record<string, string> = { tagger: 'the tagger', rules: 'a rule', lists: 'another list', learned: 'what was signed elsewhere', 'left out': 'the tagger, which left it out' }

/** What explains the entry at the cursor: what it finds, what came of that, and where else its name stands. */
export function EntryWhy({ list, entry, hues }: { list: ListShown; entry: EntryShown; hues: ReadonlyMap<string, number> }) {
  const project = useProject()
  const [outcome, setOutcome] = useState<FindOutcome>('')
  const query = useInfiniteQuery(whyQuery(project, list.id, entry, outcome))
  const { rows = [], rest } = usePages(query, stavesOf)
  const { finds, right, judged, small, harm } = entry.worth
  const first = query.data?.pages[0]
  const facts = useMemo(
    () => [
      ...(entry.identifier ? [['identifier', entry.identifier] as const] : []),
      ...(entry.note ? [['note', entry.note] as const] : []),
      ...(entry.source ? [['from', entry.source] as const] : []),
      ...(small > 0 ? [['in small letters', `${plural(small, 'place')}, as any word`] as const] : []),
      ...(harm > 0 ? [['without it', `F1 of this list ${harm.toFixed(2)} higher`] as const] : []),
    ],
    [entry, small, harm],
  )
  const figures: readonly (readonly [FindOutcome, string])[] = [
    ['', plural(finds, 'find')],
    ['right', `right ${number(right)}`],
    ['wrong', `wrong ${number(judged - right)}`],
    ['open', `unsigned ${number(finds - judged)}`],
  ]
  return (
    <>
      <Heading>{entry.preferred}</Heading>
      {facts.length > 0 && <Facts facts={facts} />}
      {(first?.elsewhere.length ?? 0) > 0 && (
        <Section>
          <Heading>In other lists</Heading>
          {first?.elsewhere.map((one) => (
            <Box key={one.entry_id}>
              <Box asChild color="action">
                <Link to={`/p/${project}/lists/${one.list_id}?entry=${one.entry_id}`}>{one.list}</Link>
              </Box>
              : {one.preferred}
            </Box>
          ))}
        </Section>
      )}
      <Section first={facts.length === 0}>
        <Flex gap="3" mb="2" wrap="wrap" role="group" aria-label="finds of this name">
          {figures.map(([name, words]) => (
            <LinkAct key={name} aria-pressed={outcome === name} fontWeight={outcome === name ? 'bold' : 'normal'} color={outcome === name ? 'ink' : 'action'} onClick={() => setOutcome(name)}>
              {words}
            </LinkAct>
          ))}
        </Flex>
        <Ask query={query}>
          {({ pages }) => (
            <>
              <Beaten beaten={pages[0]?.beaten ?? {}} />
              <StaveList
                page={{ total: pages[0]?.finds.total ?? 0, staves: rows as StaveShown[] }}
                rest={rest}
                lanes={LANES}
                hues={hues}
                empty={finds === 0 ? (entry.on && list.on ? 'It is found nowhere.' : 'It is off, and finds nothing.') : 'There is no such sentence.'}
              />
            </>
          )}
        </Ask>
      </Section>
    </>
  )
}

/** Who stood against it in these sentences. */
function Beaten({ beaten }: { beaten: Record<string, number> }) {
  const by = Object.entries(beaten)
  if (by.length === 0) return null
  return (
    <Box color="second" mb="2">
      Not in the answer: {by.map(([source, count]) => `${number(count)} because of ${SOURCES[source] ?? source}`).join(', ')}.
    </Box>
  )
}
