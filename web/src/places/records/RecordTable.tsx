import { Box, chakra } from '@chakra-ui/react'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useRef } from 'react'

import type { RecordShown, TemplateShown } from '../../api/schema'
import { Unfetched } from '../../parts/RowList'
import type { Rest } from '../../parts/usePages'

const ROW = 27

interface RecordTableProps {
  template: TemplateShown
  records: readonly RecordShown[]
  chosen: number | null
  onChoose: (record: RecordShown) => void
  rest: Rest
}

/** The records as a table that draws only what is seen. */
export function RecordTable({ template, records, chosen, onChoose, rest }: RecordTableProps) {
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
    <Box ref={frame} flex="1" minH="40" overflow="auto" tabIndex={0} role="region" aria-label={`${template.name} records`}>
      <chakra.table w="full" fontVariantNumeric="tabular-nums" css={{ borderCollapse: 'separate', borderSpacing: 0 }}>
        <thead>
          <tr>
            {['text', ...template.fields.map((f) => f.name)].map((name) => (
              <chakra.th
                key={name}
                scope="col"
                textAlign="left"
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
                {name}
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
                <Cell>{record.text_title}</Cell>
                {template.fields.map((field) => (
                  <Cell key={field.name} missing={record.missing.includes(field.name)}>
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

function Cell({ children, missing = false }: { children: string | undefined; missing?: boolean }) {
  return (
    <chakra.td pr="3" borderBottomWidth="1px" borderColor="hairline" whiteSpace="nowrap" color={missing ? 'bad' : undefined}>
      {children}
    </chakra.td>
  )
}
