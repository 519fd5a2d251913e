import { Box, chakra } from '@chakra-ui/react'
import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, useEffect, useRef } from 'react'

import type { RecordShown, TemplateShown } from '../../api/schema'
import { Unfetched } from '../../parts/RowList'
import { StateSign } from '../../parts/signs'
import type { Rest } from '../../parts/usePages'
import type { Wanted } from './queries'

const ROW = 27

interface RecordTableProps {
  template: TemplateShown
  records: readonly RecordShown[]
  chosen: number | null
  onChoose: (record: RecordShown) => void
  rest: Rest
  wanted: Wanted
  onWant: (wanted: Wanted) => void
}

/** The records as a table that draws only what is seen. */
export function RecordTable({ template, records, chosen, onChoose, rest, wanted, onWant }: RecordTableProps) {
  const frame = useRef<HTMLDivElement>(null)
  // eslint-disable-next-line react-hooks/incompatible-library -- the table is not memoised
  const virtual = useVirtualizer({ count: records.length, getScrollElement: () => frame.current, estimateSize: () => ROW, overscan: 16, scrollPaddingStart: 2 * ROW, scrollPaddingEnd: 2 * ROW })
  const items = virtual.getVirtualItems()
  const first = items[0]
  const last = items.at(-1)
  const at = records.findIndex((record) => record.id === chosen)
  // The sentences above take room from the table once they are read: look again when its height changes.
  const height = virtual.scrollRect?.height
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at, { align: 'auto' })
  }, [at, height, virtual])
  useEffect(() => {
    if (last && last.index >= records.length - 1) rest.more()
  }, [last, records.length, rest])
  return (
    <Box ref={frame} data-sideways flex="1" minH="40" overflow="auto" tabIndex={0} role="region" aria-label={`${template.name} records`}>
      <chakra.table w="full" fontVariantNumeric="tabular-nums" css={{ borderCollapse: 'separate', borderSpacing: 0 }}>
        <thead>
          <tr>
            <chakra.th scope="col" position="sticky" top="0" bg="paper" borderBottomWidth="1px" borderColor="third">
              <Box srOnly>state</Box>
            </chakra.th>
            {['', ...template.fields.map((f) => f.name)].map((name) => (
              <chakra.th
                key={name}
                scope="col"
                aria-sort={(wanted.sort ?? '') !== name || name === '' ? undefined : wanted.down ? 'descending' : 'ascending'}
                textAlign={isFigure(template, name) ? 'right' : 'left'}
                fontSize="tiny"
                color="second"
                pr="3"
                position="sticky"
                top="0"
                bg="paper"
                borderBottomWidth="1px"
                borderColor="third"
                whiteSpace="nowrap"
              >
                <chakra.button type="button" onClick={() => onWant(sorted(wanted, name))} title={name ? `sort by ${name}` : 'in the order of the texts'}>
                  {name || 'text'}
                  {name !== '' && wanted.sort === name && (wanted.down ? ' ↓' : ' ↑')}
                </chakra.button>
              </chakra.th>
            ))}
          </tr>
        </thead>
        <tbody>
          {first && first.start > 0 && <tr style={{ height: first.start }} />}
          {items.map((item) => {
            const record = records[item.index] as RecordShown
            const isChosen = record.id === chosen
            return (
              <chakra.tr
                key={record.id}
                h="row"
                cursor="pointer"
                bg={isChosen ? 'chosen' : undefined}
                _hover={{ bg: 'chosen' }}
                aria-selected={isChosen}
                onClick={() => onChoose(record)}
              >
                <Cell>
                  <State record={record} />
                </Cell>
                <Cell>{record.text_title}</Cell>
                {template.fields.map((field) => (
                  <Cell key={field.name} missing={record.missing.includes(field.name)} right={isFigure(template, field.name)}>
                    {record.values[field.name] || (record.missing.includes(field.name) ? 'missing' : '')}
                  </Cell>
                ))}
              </chakra.tr>
            )
          })}
          {last && <tr style={{ height: Math.max(0, virtual.getTotalSize() - last.end) }} />}
        </tbody>
      </chakra.table>
      <Unfetched rest={rest} />
    </Box>
  )
}

const FIGURES: ReadonlySet<string> = new Set(['number', 'quantity', 'money'])

function isFigure(template: TemplateShown, name: string): boolean {
  return template.fields.some((f) => f.name === name && FIGURES.has(f.kind))
}

/** By a field, then the other way round, then as the texts are. */
function sorted({ sort, down, ...rest }: Wanted, name: string): Wanted {
  if (name === '' || (sort === name && down)) return rest
  return { ...rest, sort: name, down: sort === name }
}

/** Signed, to be looked at, or neither; in words for those who do not see it. */
function State({ record }: { record: RecordShown }) {
  if (record.state === 'signed') return <StateSign state="signed" />
  if (record.looks.length === 0) return <StateSign state="untouched" />
  return (
    <Box as="span" color="bad" title={record.looks.join(', ')}>
      ⚑<Box srOnly>{record.looks.join(', ')}</Box>
    </Box>
  )
}

function Cell({ children, missing = false, right = false }: { children: ReactNode; missing?: boolean; right?: boolean }) {
  return (
    <chakra.td pr="3" textAlign={right ? 'right' : undefined} borderBottomWidth="1px" borderColor="hairline" whiteSpace="nowrap" color={missing ? 'bad' : undefined}>
      {children}
    </chakra.td>
  )
}
