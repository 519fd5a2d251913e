import { Box, Flex } from '@chakra-ui/react'

import type { EntryShown } from '../../api/schema'
import { Mark } from '../../parts/Mark'
import { RowList } from '../../parts/RowList'
import type { useMarks } from '../../parts/useMarks'
import type { Rest } from '../../parts/usePages'
import { number } from '../../parts/words'

interface EntryRowsProps {
  entries: readonly EntryShown[]
  rest: Rest
  chosen: number | null
  onChoose: (entry: EntryShown) => void
  marks: ReturnType<typeof useMarks> | undefined
  passing: boolean
}

/** The names of a list, each with what it is worth. */
export function EntryRows({ entries, rest, chosen, onChoose, marks, passing }: EntryRowsProps) {
  return (
    <>
      <Flex px="3" py="1" gap="3" fontSize="tiny" color="second" borderBottomWidth="1px" borderColor="hairline" aria-hidden="true">
        <Box flex="1">name and variants</Box>
        {COLUMNS.map(([name, width]) => (
          <Box key={name} w={width} textAlign="right">
            {name}
          </Box>
        ))}
      </Flex>
      <RowList rows={entries} keyOf={(e) => e.id} chosen={chosen} onChoose={onChoose} height={42} label="names" rest={rest} passing={passing}>
        {(entry) => <EntryRow entry={entry} marks={marks} />}
      </RowList>
    </>
  )
}

const COLUMNS = [
  ['finds', '12'],
  ['right', '12'],
  ['wrong', '12'],
  ['F1 lost', '14'],
] as const

function EntryRow({ entry, marks }: { entry: EntryShown; marks: EntryRowsProps['marks'] }) {
  const { finds, right, judged, harm } = entry.worth
  const wrong = judged - right
  const figures = [number(finds), judged ? number(right) : '–', judged ? number(wrong) : '–', harm > 0 ? harm.toFixed(2) : '']
  return (
    <Flex px="3" py="1" gap="3" align="flex-start">
      {marks && <Mark id={entry.id} name={entry.preferred} marks={marks} />}
      <Box flex="1" minW="0" opacity={entry.on ? undefined : 0.75}>
        <Box truncate fontWeight="bold" color={entry.on ? 'ink' : 'second'}>
          {entry.preferred}
          {!entry.on && (
            <Box as="span" fontWeight="normal" fontSize="small">
              {' '}
              · off
            </Box>
          )}
        </Box>
        {entry.variants.length > 0 && (
          <Box truncate fontSize="small" color="second">
            also {entry.variants.join(', ')}
          </Box>
        )}
      </Box>
      {COLUMNS.map(([name, width], k) => (
        <Box key={name} w={width} flexShrink="0" textAlign="right" fontVariantNumeric="tabular-nums" color={k === 2 && wrong > 0 ? 'bad' : k === 3 ? 'bad' : finds ? 'ink' : 'second'}>
          <Box as="span" srOnly>
            {name}{' '}
          </Box>
          {figures[k]}
        </Box>
      ))}
    </Flex>
  )
}
