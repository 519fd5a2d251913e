import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { ListShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { QuietAct } from '../../parts/controls'
import { type KeyBinding, useKeys } from '../../parts/keys'
import { AddAct, ResourceActs, ResourcePlace } from '../../parts/ResourcePlace'
import { TypeCode } from '../../parts/signs'
import { BRACKETS } from '../../parts/usePick'
import { ALL_OFFERS, type Resource, useResource } from '../../parts/useResource'
import { number, plural, share } from '../../parts/words'
import { Counting } from '../../stave/Counting'
import { EntryWhy } from './EntryWhy'
import { ImportWindow } from './ImportWindow'
import { ListExport } from './ListExport'
import { ListForm } from './ListForm'
import { ListSheet } from './ListSheet'
import { ProposeWindow } from './ProposeWindow'
import { StarterWindow } from './StarterWindow'
import { latestListActQuery, listsQuery } from './queries'
import { useEntryAtCursor } from './useEntryAtCursor'
import { useUndoList } from './useListActs'

/** Lists of names: what they hold, and what each name is worth. */
export function Lists() {
  const project = useProject()
  const lead = useIsLead()
  const { types, hues } = useScheme()
  const query = useQuery(listsQuery(project))
  const { queryKey } = listsQuery(project)
  const lists = useResource<ListShown, ListShown[]>({ place: 'lists', one: 'list', query, queryKey, rows: query.data, offers: lead ? ALL_OFFERS : [], steps: BRACKETS })
  const undo = useUndoList()
  const latest = useQuery({ ...latestListActQuery(project), enabled: lead }).data?.act
  const cursor = useEntryAtCursor(lists.chosen?.id)
  const [opened, setOpened] = useState<'import' | 'export' | 'starters' | 'propose' | null>(null)
  const files: KeyBinding[] = lists.chosen
    ? [...(lead ? [{ keys: ['i'], caps: ['i'], label: 'import', run: () => setOpened('import') }] : []), { keys: ['x'], caps: ['x'], label: 'export', run: () => setOpened('export'), quiet: true }]
    : []
  const starters: KeyBinding[] = lead && types.length > 0 ? [{ keys: ['s'], caps: ['s'], label: 'starter lists', run: () => setOpened('starters'), quiet: true }] : []
  useKeys([...files, ...starters, ...(latest ? [{ keys: ['ctrl+z'], caps: ['ctrl', 'z'], label: 'undo', run: () => undo.run(latest) }] : [])])
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
      {...(lead ? { act: <AddActs lists={lists} barred={types.length === 0} onOpen={setOpened} none={query.data?.every((list) => !list.on) ?? true} /> } : {})}
      windows={
        <>
          {lists.chosen && opened === 'import' && <ImportWindow list={lists.chosen} onClose={() => setOpened(null)} />}
          {lists.chosen && opened === 'export' && <ListExport list={lists.chosen} onClose={() => setOpened(null)} />}
          {opened === 'propose' && <ProposeWindow lists={query.data ?? []} onClose={() => setOpened(null)} />}
          {opened === 'starters' && (
            <StarterWindow
              lists={query.data ?? []}
              onClose={() => setOpened(null)}
              onDone={(id) => {
                setOpened(null)
                lists.pick({ id })
              }}
            />
          )}
        </>
      }
      right={lists.chosen && cursor.entry && <EntryWhy key={cursor.entry.id} list={lists.chosen} entry={cursor.entry} hues={hues} />}
      wide
      empty="A list holds names of one type, each with the other ways it is written. Its finds are evidence at the Desk and features of the tagger. There is none yet."
      form={(list) => <ListForm {...(list ? { list } : {})} onClose={lists.close} onDone={lists.saved} />}
      onDelete={(list) => api.DELETE('/api/projects/{project}/lists/{list_id}', { params: { path: { project, list_id: list.id } } })}
      loss={(list) => ({
        name: list.name,
        act: `delete it with ${plural(list.entries, 'name')}`,
        says: `The list goes with its ${plural(list.entries, 'name')} and all their variants. Ctrl Z brings it back.`,
      })}
    >
      {(list) => (
        <ListSheet
          key={list.id}
          list={list}
          cursor={cursor}
          acts={
            <ResourceActs resource={lists}>
              {lead && <QuietAct onClick={() => setOpened('import')}>import</QuietAct>}
              <QuietAct onClick={() => setOpened('export')}>export</QuietAct>
            </ResourceActs>
          }
        />
      )}
    </ResourcePlace>
  )
}

/** What makes a list, by hand or of names of the general lexicon, and what all lists make. */
function AddActs({ lists, barred, none, onOpen }: { lists: Resource<ListShown>; barred: boolean; none: boolean; onOpen: (what: 'starters' | 'propose') => void }) {
  return (
    <Flex gap="2" wrap="wrap">
      <AddAct resource={lists} barred={barred} />
      <QuietAct disabled={barred} onClick={() => onOpen('starters')}>
        starter lists
      </QuietAct>
      <QuietAct disabled={none} onClick={() => onOpen('propose')}>
        propose spans
      </QuietAct>
    </Flex>
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
