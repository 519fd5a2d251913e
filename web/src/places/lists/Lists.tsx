import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'

import { api } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { ListShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Title } from '../../parts/layout'
import { ResourceActs, ResourcePlace } from '../../parts/ResourcePlace'
import { TypeCode } from '../../parts/signs'
import { ALL_OFFERS, useResource } from '../../parts/useResource'
import { number, plural, share } from '../../parts/words'
import { Counting } from '../../stave/Counting'
import { Finds, type FindOutcome } from '../../stave/Finds'
import { Entries } from './Entries'
import { ListForm } from './ListForm'
import { listFindsQuery, listsQuery } from './queries'

/** Lists of names: what they hold, and what they find. */
export function Lists() {
  const project = useProject()
  const lead = useIsLead()
  const { types } = useScheme()
  const query = useQuery(listsQuery(project))
  const { queryKey } = listsQuery(project)
  const lists = useResource<ListShown, ListShown[]>({ place: 'lists', one: 'list', query, queryKey, rows: query.data, offers: lead ? ALL_OFFERS : [] })
  return (
    <ResourcePlace
      resource={lists}
      heading="Lists"
      figure="finds · right"
      above={<Counting />}
      height={44}
      label="lists"
      row={(list) => <ListRow list={list} />}
      barred={types.length === 0}
      right={lists.chosen && <Entries key={lists.chosen.id} list={lists.chosen} lead={lead} />}
      empty="A list holds names of one type, each with the other ways it is written. Its finds are evidence at the Desk and features of the tagger. There is none yet."
      form={(list) => <ListForm {...(list ? { list } : {})} onClose={lists.close} onDone={lists.saved} />}
      onDelete={(list) => api.DELETE('/api/projects/{project}/lists/{list_id}', { params: { path: { project, list_id: list.id } } })}
      loss={(list) => ({
        name: list.name,
        act: `delete it with ${plural(list.entries, 'name')}`,
        says: `The list goes with its ${plural(list.entries, 'name')} and all their variants. This cannot be undone; a list that is switched off keeps its names and finds nothing.`,
      })}
    >
      {(list) => <Sheet key={list.id} list={list} acts={<ResourceActs resource={lists} />} />}
    </ResourcePlace>
  )
}

function ListRow({ list }: { list: ListShown }) {
  const { hues } = useScheme()
  return (
    <Box px="2.5" py="1">
      <Flex justify="space-between" gap="2">
        <Box truncate fontWeight="bold" color={list.on ? 'ink' : 'second'}>
          {list.name}
        </Box>
        <Box color="second" fontVariantNumeric="tabular-nums" whiteSpace="nowrap">
          {number(list.finds)} · {share(list.right, list.judged)}
        </Box>
      </Flex>
      <Box fontSize="small" color="second">
        <TypeCode code={list.type} hue={hues.get(list.type)} /> · {plural(list.entries, 'name')}
        {list.on ? '' : ' · off'}
      </Box>
    </Box>
  )
}

const LANE = ['lists', 'This list'] as const

function Sheet({ list, acts }: { list: ListShown; acts: ReactNode }) {
  const project = useProject()
  const { hues } = useScheme()
  const [outcome, setOutcome] = useState<FindOutcome>('')
  const finds = useInfiniteQuery(listFindsQuery(project, list.id, outcome))
  return (
    <Box px="6" pt="4" pb="8">
      <Title side={acts}>
        {list.name}{' '}
        <Box as="span" fontSize="ui" fontFamily="body">
          marks <TypeCode code={list.type} hue={hues.get(list.type)} />
          {list.on ? '' : ' · switched off, finds nothing'}
        </Box>
      </Title>
      <Box color="second" maxW="3xl">
        A name is found word by word, in any case; one that the list writes with a capital is not found in small letters.
        Right means: the very span stands in gold.
      </Box>
      <Finds counts={list} outcome={outcome} onOutcome={setOutcome} query={finds} lane={LANE} hues={hues} />
    </Box>
  )
}
