import { Box, Flex } from '@chakra-ui/react'
import { memo } from 'react'
import { useNavigate } from 'react-router'

import { useProject } from '../../api/project'
import type { QueueItemShown } from '../../api/schema'
import { CheckField, ChoiceField } from '../../parts/controls'
import { RowList } from '../../parts/RowList'
import { Meter, StateSign } from '../../parts/signs'
import { number, plural } from '../../parts/words'
import type { useQueue } from './useDesk'

const SPLITS = [
  { value: '', label: 'all texts' },
  { value: 'train', label: 'train' },
  { value: 'dev', label: 'dev' },
  { value: 'test', label: 'test' },
  { value: 'none', label: 'no split' },
]

interface DeskQueueProps {
  queue: ReturnType<typeof useQueue>
  split: string
  onSplit: (split: string) => void
  openOnly: boolean
  onOpenOnly: (openOnly: boolean) => void
}

/** What there is to go through, in reading order. */
export function DeskQueue({ queue, split, onSplit, openOnly, onOpenOnly }: DeskQueueProps) {
  const project = useProject()
  const navigate = useNavigate()
  const { items, total, signed, chosen } = queue
  return (
    <>
      <Box px="3" pt="3" pb="1" borderBottomWidth="1px" borderColor="hairline">
        <Meter done={signed} all={total} label="signed sentences" gold />
        <Flex justify="space-between" fontSize="small" color="second" mt="1" mb="2">
          <span>
            {number(signed)} of {number(total)} signed
          </span>
          <span>{plural(total - signed, 'sentence')} left</span>
        </Flex>
        <ChoiceField label="show" value={split} onChange={onSplit} options={SPLITS} />
        <CheckField label="unsigned only" checked={openOnly} onChange={onOpenOnly} />
      </Box>
      <RowList
        rows={items}
        keyOf={(item) => item.id}
        chosen={chosen}
        onChoose={(item) => void navigate(`/p/${project}/desk/${item.id}`)}
        height={27}
        label="sentences"
      >
        {(item, isChosen) => <QueueRow item={item} isChosen={isChosen} />}
      </RowList>
    </>
  )
}

// Rows come again with every act; those whose sentence is as before need no drawing.
const QueueRow = memo(function QueueRow({ item, isChosen }: { item: QueueItemShown; isChosen: boolean }) {
  return (
    <Flex align="center" gap="2" px="2.5" h="row" color={item.state === 'signed' && !isChosen ? 'second' : 'ink'}>
      <StateSign state={item.state} />
      <Box flex="1" truncate>
        {item.number === 0 && (
          <Box as="span" fontWeight="bold" fontSize="tiny" color="second" mr="1.5">
            {item.title}
          </Box>
        )}
        {item.words}
      </Box>
      <Box fontSize="tiny" color="second">
        {item.state === 'signed' && item.spans === 0 ? 'empty' : item.spans > 0 ? item.spans : ''}
      </Box>
    </Flex>
  )
})
