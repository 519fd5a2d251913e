import { Box, Flex, Table } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useProject } from '../../../api/project'
import type { TypeShown } from '../../../api/schema'
import { Ask } from '../../../parts/Ask'
import { ChoiceField, LinkAct, QuietAct } from '../../../parts/controls'
import { number } from '../../../parts/words'
import { csvOf, saveFile } from './chart'
import { type FindingsWish, togetherQuery, type TogetherWish } from './queries'
import { Sentences } from './Sentences'

type Scope = NonNullable<TogetherWish['scope']>
const SCOPES: readonly { value: Scope; label: string }[] = [
  { value: 'sentence', label: 'in one sentence' },
  { value: 'text', label: 'in one text' },
]

/** Which values of two types stand together, and how often. */
export function Matrix({ type, types, wish }: { type: string; types: readonly TypeShown[]; wish: FindingsWish }) {
  const [beside, setBeside] = useState(types.find(({ code }) => code !== type)?.code ?? type)
  const [scope, setScope] = useState<Scope>('sentence')
  const [cell, setCell] = useState<readonly [string, string] | null>(null)
  const query = useQuery(togetherQuery(useProject(), { ...wish, of: type, beside, scope }))
  const choose = (row: string, column: string) => setCell([row, column])
  return (
    <>
      <Flex gap="3" maxW="lg">
        <ChoiceField label="together with" value={beside} options={types.map(({ code, name }) => ({ value: code, label: `${code} ${name}` }))} onChange={setBeside} />
        <ChoiceField label="where" value={scope} options={SCOPES} onChange={(value) => setScope(value as Scope)} />
      </Flex>
      <Ask query={query}>
        {({ rows, columns, counts }) => {
          if (rows.length === 0) return <Box color="second">No two of them stand together in these texts.</Box>
          const most = Math.max(1, ...counts.flat())
          return (
            <>
              <Box overflowX="auto">
                <Table.Root>
                  <Table.Header>
                    <Table.Row>
                      <Table.ColumnHeader>{type}</Table.ColumnHeader>
                      {columns.map((column) => (
                        <Table.ColumnHeader key={column} textAlign="end" verticalAlign="bottom">
                          {column}
                        </Table.ColumnHeader>
                      ))}
                    </Table.Row>
                  </Table.Header>
                  <Table.Body>
                    {rows.map((row, i) => (
                      <Table.Row key={row}>
                        <Table.Cell>{row}</Table.Cell>
                        {columns.map((column, k) => {
                          const count = counts[i]?.[k] ?? 0
                          const isOpen = cell?.[0] === row && cell[1] === column
                          return (
                            <Table.Cell key={column} textAlign="end" style={{ background: count === 0 ? undefined : `color-mix(in srgb, var(--chakra-colors-action) ${Math.round((count / most) * 22)}%, transparent)` }}>
                              {count > 0 && (
                                <LinkAct aria-pressed={isOpen} aria-label={`${count}: ${row} with ${column}`} fontWeight={isOpen ? 'bold' : undefined} onClick={() => choose(row, column)}>
                                  {number(count)}
                                </LinkAct>
                              )}
                            </Table.Cell>
                          )
                        })}
                      </Table.Row>
                    ))}
                  </Table.Body>
                </Table.Root>
              </Box>
              <Flex justify="flex-end" mt="2">
                <QuietAct onClick={() => saveFile(`together-${type}-${beside}.csv`, 'text/csv', csvOf([type, ...columns], rows.map((row, i) => [row, ...(counts[i] ?? [])])))}>
                  save as CSV
                </QuietAct>
              </Flex>
              {cell && <Sentences wish={{ ...wish, of: type, named: cell[0], beside, beside_named: cell[1], scope }} said={`${cell[0]} with ${cell[1]}`} />}
            </>
          )
        }}
      </Ask>
    </>
  )
}
