import { Box, Flex, Table } from '@chakra-ui/react'
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { useDeferredValue, useMemo, useState } from 'react'
import { Link } from 'react-router'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { RowShown, TablePage } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { CheckField, ChoiceField, LinkAct, QuietAct } from '../../parts/controls'
import { Columns, Title } from '../../parts/layout'
import { Unfetched } from '../../parts/RowList'
import { TypeCode } from '../../parts/signs'
import { usePages } from '../../parts/usePages'
import { plural } from '../../parts/words'
import { wishOf } from './filter'
import { FilterLine } from './FilterLine'
import { LANES } from './findings/lanes'
import type { FindingsWish } from './findings/queries'
import { Sentences } from './findings/Sentences'
import { countQuery, type TextsWish } from './queries'
import { TextsTabs } from './TextsTabs'
import { useTextFilter } from './useTextFilter'

const rowsOf = (page: TablePage) => page.rows

/** A row for each text, a column for each type: its values, and the sentences that they stand in on demand. */
export function TableView() {
  const project = useProject()
  const texts = useTextFilter()
  const { hues } = useScheme()
  const [lane, setLane] = useState<string>('gold')
  const [withMeta, setWithMeta] = useState(true)
  const [open, setOpen] = useState<{ row: number; type: string } | null>(null)
  const asked = useDeferredValue(JSON.stringify({ ...wishOf(texts.filter), lane }))
  const wish = useMemo(() => JSON.parse(asked) as FindingsWish, [asked])
  const query = useInfiniteQuery({
    queryKey: ['p', project, 'desk', 'table', wish],
    queryFn: ({ pageParam }) =>
      body(api.GET('/api/projects/{project}/findings/table', { params: { path: { project }, query: { ...wish, ...(pageParam === null ? {} : { after: pageParam }) } } })),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  })
  const { rows, rest } = usePages(query, rowsOf)
  const filter = JSON.stringify(wishOf(texts.filter))
  const counts = useQuery(countQuery(project, useMemo(() => JSON.parse(filter) as TextsWish, [filter])))
  const first = query.data?.pages[0]
  const types = first?.types ?? []
  const names = withMeta ? (first?.meta ?? []) : []
  const address = (format: string) => {
    const said = Object.entries({ ...wish, format }).flatMap(([name, value]) => (Array.isArray(value) ? value : [value]).map((one) => [name, String(one)]))
    return `/api/projects/${project}/findings/table/file?${new URLSearchParams(said)}`
  }
  return (
    <Columns
      left={
        <>
          <TextsTabs at="/table" search={texts.search} />
          <FilterLine texts={texts} counts={counts.data} />
          <Box px="3" pt="2">
            <ChoiceField label="found by" value={lane} options={LANES.map((one) => ({ ...one, label: one.label.toLowerCase() }))} onChange={setLane} />
            {(first?.meta.length ?? 0) > 0 && <CheckField label="metadata" checked={withMeta} onChange={setWithMeta} />}
          </Box>
        </>
      }
    >
      <Box px="6" pt="4" pb="8">
        <Title
          side={
            <>
              {(['csv', 'xlsx'] as const).map((format) => (
                <QuietAct key={format} asChild>
                  <a href={address(format)} download>
                    export as {format.toUpperCase()}
                  </a>
                </QuietAct>
              ))}
            </>
          }
        >
          Table
        </Title>
        <Ask query={query}>
          {() =>
            rows?.length === 0 ? (
              <Box color="second">No text fits. Choose another filter, or import texts.</Box>
            ) : (
              <Box overflowX="auto" data-sideways="" tabIndex={0} role="region" aria-label="texts and their values" aria-busy={query.isPlaceholderData || undefined}>
                <Table.Root>
                  <Table.Header>
                    <Table.Row>
                      <Table.ColumnHeader>text</Table.ColumnHeader>
                      <Table.ColumnHeader>date</Table.ColumnHeader>
                      {names.map((name) => (
                        <Table.ColumnHeader key={name}>{name}</Table.ColumnHeader>
                      ))}
                      {types.map((code) => (
                        <Table.ColumnHeader key={code}>
                          <TypeCode code={code} hue={hues.get(code)} />
                        </Table.ColumnHeader>
                      ))}
                    </Table.Row>
                  </Table.Header>
                  <Table.Body>
                    {rows?.map((row) => (
                      <Row key={row.id} row={row} names={names} types={types} open={open?.row === row.id ? open.type : null} wish={wish} onOpen={(type) => setOpen(type === null ? null : { row: row.id, type })} />
                    ))}
                  </Table.Body>
                </Table.Root>
                {query.hasNextPage && (
                  <Box py="2">
                    <LinkAct onClick={rest.more}>more texts</LinkAct>
                  </Box>
                )}
                <Unfetched rest={rest} />
              </Box>
            )
          }
        </Ask>
      </Box>
    </Columns>
  )
}

interface RowProps {
  row: RowShown
  names: readonly string[]
  types: readonly string[]
  open: string | null
  wish: FindingsWish
  onOpen: (type: string | null) => void
}

function Row({ row, names, types, open, wish, onOpen }: RowProps) {
  const project = useProject()
  const held = new Map(row.cells.map((cell) => [cell.type, cell.values]))
  return (
    <>
      <Table.Row verticalAlign="top">
        <Table.Cell>
          <Link to={`/p/${project}/texts/${row.id}`}>{row.title}</Link>
        </Table.Cell>
        <Table.Cell whiteSpace="nowrap">{row.dated}</Table.Cell>
        {names.map((name) => (
          <Table.Cell key={name}>{row.meta[name]}</Table.Cell>
        ))}
        {types.map((code) => {
          const values = held.get(code) ?? []
          return (
            <Table.Cell key={code}>
              {values.length > 0 && (
                <LinkAct aria-expanded={open === code} aria-label={`${plural(values.length, 'value')} of ${code} in ${row.title}: ${values.join('; ')}`} whiteSpace="normal" textAlign="start" onClick={() => onOpen(open === code ? null : code)}>
                  {values.join('; ')}
                </LinkAct>
              )}
            </Table.Cell>
          )
        })}
      </Table.Row>
      {open !== null && (
        <Table.Row>
          <Table.Cell colSpan={2 + names.length + types.length}>
            <Flex direction="column">
              <Sentences wish={{ ...wish, of: open, text: row.id }} said={`${open} in ${row.title}`} />
            </Flex>
          </Table.Cell>
        </Table.Row>
      )}
    </>
  )
}
