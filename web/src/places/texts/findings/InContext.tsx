import { Box, Flex, Grid, Table } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { useLanguage, useProject } from '../../../api/project'
import { Ask } from '../../../parts/Ask'
import { ChoiceField, QuietAct, TextField } from '../../../parts/controls'
import { plural } from '../../../parts/words'
import { csvOf, saveFile } from './chart'
import { contextQuery, type ContextWish, type FindingsWish, ruleNamesQuery } from './queries'

type Sort = NonNullable<ContextWish['sort']>
const SORTS: readonly { value: Sort; label: string }[] = [
  { value: 'text', label: 'as texts come' },
  { value: 'left', label: 'by words before' },
  { value: 'right', label: 'by words after' },
  { value: 'words', label: 'by the words themselves' },
]

/** Words, spans of the type, or what a rule finds: a line each, with what stands before and after. */
export function InContext({ type, wish }: { type: string; wish: FindingsWish }) {
  const project = useProject()
  const language = useLanguage()
  const [words, setWords] = useState('')
  const [rule, setRule] = useState('')
  const [sort, setSort] = useState<Sort>('text')
  const rules = useQuery(ruleNamesQuery(project)).data ?? []
  const what: Partial<ContextWish> = words.trim() !== '' ? { words: words.trim() } : rule !== '' ? { rule } : { of: type }
  const query = useQuery(contextQuery(project, { ...wish, ...what, sort }))
  return (
    <>
      <Grid templateColumns="repeat(3, minmax(0, 1fr))" gap="3" alignItems="start">
        <TextField label="words" value={words} help={`empty for all of ${type}`} onChange={setWords} />
        <ChoiceField label="found by the rule" value={rule} disabled={words.trim() !== ''} options={[{ value: '', label: 'any' }, ...rules.map((name) => ({ value: name, label: name }))]} onChange={setRule} />
        <ChoiceField label="sorted" value={sort} options={SORTS} onChange={(value) => setSort(value as Sort)} />
      </Grid>
      <Ask query={query}>
        {({ places, more }) =>
          places.length === 0 ? (
            <Box color="second">Nothing of the kind stands in these texts.</Box>
          ) : (
            <Box aria-busy={query.isPlaceholderData || undefined}>
              <Flex justify="space-between" align="center" color="second">
                <span aria-live="polite">{more ? `The first ${plural(places.length, 'place')}; there are more.` : plural(places.length, 'place')}</span>
                <QuietAct onClick={() => saveFile('context.csv', 'text/csv', csvOf(['text', 'before', 'words', 'after'], places.map((one) => [one.title, one.before, one.words, one.after])))}>save as CSV</QuietAct>
              </Flex>
              <Table.Root lang={language} tableLayout="fixed">
                <Table.Body>
                  {places.map((one) => (
                    <Table.Row key={`${one.text} ${one.start}`} fontFamily="text" fontSize="body" style={{ contentVisibility: 'auto' }}>
                      <Table.Cell textAlign="end" color="second" whiteSpace="nowrap" overflow="hidden" textOverflow="ellipsis" style={{ direction: 'rtl' }}>
                        <bdi>{one.before}</bdi>
                      </Table.Cell>
                      <Table.Cell textAlign="center" whiteSpace="nowrap" width="1/5" overflow="hidden" textOverflow="ellipsis" title={one.title}>
                        <Link to={`/p/${project}/desk/${one.sentence}?at=${one.start}`}>{one.words}</Link>
                      </Table.Cell>
                      <Table.Cell color="second" whiteSpace="nowrap" overflow="hidden" textOverflow="ellipsis">
                        {one.after}
                      </Table.Cell>
                    </Table.Row>
                  ))}
                </Table.Body>
              </Table.Root>
            </Box>
          )
        }
      </Ask>
    </>
  )
}
