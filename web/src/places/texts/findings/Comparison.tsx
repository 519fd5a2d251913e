import { Box, Flex, Grid, Table } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useProject } from '../../../api/project'
import type { ContrastShown } from '../../../api/schema'
import { Ask } from '../../../parts/Ask'
import { ChoiceField, LinkAct, QuietAct } from '../../../parts/controls'
import { Heading } from '../../../parts/layout'
import { number, plural } from '../../../parts/words'
import { type TextFilter, wishOf } from '../filter'
import { facetQuery, metaNamesQuery } from '../queries'
import { csvOf, saveFile } from './chart'
import { comparisonQuery, type FindingsWish } from './queries'
import { Sentences } from './Sentences'

const BY = [
  { value: 'split', label: 'split' },
  { value: 'group', label: 'group' },
  { value: 'month', label: 'month' },
  { value: 'source', label: 'source' },
]
const REST = ''

/** What is typical of one part of the texts against another: values of the type, or words. */
export function Comparison({ type, name, wish, filter }: { type: string; name: string; wish: FindingsWish; filter: TextFilter }) {
  const project = useProject()
  const [what, setWhat] = useState<'values' | 'words'>('values')
  const [by, setBy] = useState('split')
  const [one, setOne] = useState<string | null>(null)
  const [other, setOther] = useState(REST)
  const [chosen, setChosen] = useState<string | null>(null)
  const names = useQuery(metaNamesQuery(project)).data?.names ?? []
  const facet = useQuery(facetQuery(project, by, wishOf(filter))).data?.values ?? []
  const first = one ?? facet[0]?.value ?? ''
  const query = useQuery({ ...comparisonQuery(project, { ...wish, of: what === 'values' ? type : '', by, one: first, other }), enabled: facet.length > 0 })
  const say = (value: string) => (value === '' || (by === 'split' && value === 'none') ? `no ${by.replace('meta:', '')}` : by === 'month' ? value.slice(0, 7) : value)
  const options = facet.map(({ value, texts }) => ({ value, label: `${say(value)} · ${number(texts)}` }))
  const changeBy = (value: string) => {
    setBy(value)
    setOne(null)
    setOther(REST)
  }
  return (
    <>
      <Grid templateColumns="repeat(4, minmax(0, 1fr))" gap="3" alignItems="start">
        <ChoiceField label="compare" value={what} options={[{ value: 'values', label: `values of ${name}` }, { value: 'words', label: 'words of the texts' }]} onChange={(value) => setWhat(value as 'values' | 'words')} />
        <ChoiceField label="texts by" value={by} options={[...BY, ...names.map((meta) => ({ value: `meta:${meta}`, label: meta }))]} onChange={changeBy} />
        <ChoiceField label="those of" value={first} options={options} onChange={setOne} />
        <ChoiceField label="against" value={other} options={[{ value: REST, label: 'all others' }, ...options.filter(({ value }) => value !== first && value !== '')]} onChange={setOther} />
      </Grid>
      <Ask query={query}>
        {(told) => (
          <>
            <Box color="second" mb="2">
              Sorted by how far the odds differ, in standard errors, with a prior from all of these texts: more than about 2 is seldom chance.
            </Box>
            <Grid templateColumns="1fr 1fr" gap="6">
              <Side title={`${say(first)}, ${readOf(told.one_texts, told.most_read)}`} rows={told.one} onChoose={what === 'values' ? setChosen : undefined} />
              <Side title={`${other === REST ? 'all others' : say(other)}, ${readOf(told.other_texts, told.most_read)}`} rows={told.other} onChoose={what === 'values' ? setChosen : undefined} />
            </Grid>
            <Flex justify="flex-end" mt="2">
              <QuietAct
                onClick={() =>
                  saveFile('comparison.csv', 'text/csv', csvOf(['name', 'here', 'there', 'standard errors'], [...told.one, ...told.other].map((each) => [each.name, each.one, each.other, each.z.toFixed(2)])))
                }
              >
                save as CSV
              </QuietAct>
            </Flex>
            {chosen !== null && what === 'values' && <Sentences wish={{ ...wish, of: type, named: chosen }} said={chosen} />}
          </>
        )}
      </Ask>
    </>
  )
}

const readOf = (texts: number, most: number | null) =>
  most !== null && texts > most ? `a sample of ${number(most)} of ${plural(texts, 'text')}` : plural(texts, 'text')

function Side({ title, rows, onChoose }: { title: string; rows: readonly ContrastShown[]; onChoose: ((name: string) => void) | undefined }) {
  return (
    <Box minW="0">
      <Heading>{title}</Heading>
      {rows.length === 0 ? (
        <Box color="second">Nothing is more frequent here.</Box>
      ) : (
        <Table.Root>
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader>more frequent here</Table.ColumnHeader>
              <Table.ColumnHeader textAlign="end">first</Table.ColumnHeader>
              <Table.ColumnHeader textAlign="end">second</Table.ColumnHeader>
              <Table.ColumnHeader textAlign="end">standard errors</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {rows.map((row) => (
              <Table.Row key={row.name}>
                <Table.Cell>{onChoose ? <LinkAct onClick={() => onChoose(row.name)}>{row.name}</LinkAct> : row.name}</Table.Cell>
                <Table.Cell textAlign="end">{number(row.one)}</Table.Cell>
                <Table.Cell textAlign="end">{number(row.other)}</Table.Cell>
                <Table.Cell textAlign="end">{Math.abs(row.z).toFixed(1)}</Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
    </Box>
  )
}
