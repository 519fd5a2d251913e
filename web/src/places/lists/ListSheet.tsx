import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query'
import { type ReactNode, useDeferredValue, useState } from 'react'

import { useIsLead, useProject } from '../../api/project'
import type { EntriesWish, EntryCounts, EntryPage, EntryShown, ListShown, ManyWish } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, BadAct, ChoiceField, LinkAct, QuietAct, TextField } from '../../parts/controls'
import { type KeyBinding, useKeys } from '../../parts/keys'
import { Title } from '../../parts/layout'
import { stepped } from '../../parts/RowList'
import { TypeCode } from '../../parts/signs'
import { useMarks } from '../../parts/useMarks'
import { usePages } from '../../parts/usePages'
import { number } from '../../parts/words'
import { Finds, type FindOutcome } from '../../stave/Finds'
import { EntryForm } from './EntryForm'
import { EntryRows } from './EntryRows'
import { HarmWindow } from './HarmWindow'
import { Missing } from './Missing'
import { saidOf } from './options'
import { countsQuery, entriesQuery, entryQuery, listFindsQuery, missingQuery } from './queries'
import type { EntryCursor } from './useEntryAtCursor'
import { useListActs } from './useListActs'

const rowsOf = (page: EntryPage) => page.entries
const NO_ROWS: readonly EntryShown[] = []
const LANE = ['lists', 'This list'] as const

/** What of a list is shown: its names, some of them, those that gold has besides, or its finds. */
type Shown = keyof EntryCounts | 'missing' | 'finds'

const SHOWN: readonly (readonly [Shown, string, string])[] = [
  ['all', 'a', 'all names'],
  ['never', 'v', 'never found'],
  ['harmful', 'h', 'harmful'],
  ['common', 'c', 'also a common word'],
  ['two', 'w', 'in two lists'],
  ['off', 'o', 'off'],
  ['missing', 'g', 'missing here'],
  ['finds', 'f', 'finds'],
]

const ORDERS = [
  { value: 'name', label: 'by name' },
  { value: 'harm', label: 'by F1 lost' },
  { value: 'finds', label: 'by finds' },
]

/** The open list. */
export function ListSheet({ list, cursor, acts }: { list: ListShown; cursor: EntryCursor; acts: ReactNode }) {
  const project = useProject()
  const lead = useIsLead()
  const { hues } = useScheme()
  const [shown, setShown] = useState<Shown>('all')
  const counts = useQuery(countsQuery(project, list.id)).data
  const missing = useQuery(missingQuery(project, list.id)).data
  const figure: Record<Shown, number | undefined> = { ...(counts ?? NO_COUNTS), missing: missing?.total, finds: list.finds }
  useKeys(SHOWN.map(([what, key, label]) => ({ keys: [key], caps: [key], label, run: () => setShown(what), quiet: what === 'all' || what === 'finds' || what === 'off' })))
  return (
    <Flex direction="column" h="full">
      <Box px="4" pt="4">
        <Title side={acts}>
          {list.name}{' '}
          <Box as="span" fontSize="ui" fontFamily="body">
            marks <TypeCode code={list.type} hue={hues.get(list.type)} />
            {list.on ? '' : ' · switched off, finds nothing'}
          </Box>
        </Title>
        <Box color="second" mb="2">
          {saidOf(list.options)}
        </Box>
        <Flex gap="3" mb="2" wrap="wrap" role="group" aria-label="which names">
          {SHOWN.map(([what, , label]) => (
            <LinkAct key={what} aria-pressed={shown === what} fontWeight={shown === what ? 'bold' : 'normal'} color={shown === what ? 'ink' : 'action'} onClick={() => setShown(what)}>
              {label} {figure[what] === undefined ? '' : number(figure[what])}
            </LinkAct>
          ))}
        </Flex>
      </Box>
      {shown === 'finds' ? (
        <ListFinds list={list} hues={hues} />
      ) : shown === 'missing' ? (
        <Missing list={list} lead={lead} />
      ) : (
        <Names key={shown} list={list} show={shown === 'all' ? '' : shown} count={figure[shown]} cursor={cursor} lead={lead} />
      )}
    </Flex>
  )
}

const NO_COUNTS: Record<keyof EntryCounts, undefined> = { all: undefined, never: undefined, harmful: undefined, common: undefined, two: undefined, off: undefined }

function ListFinds({ list, hues }: { list: ListShown; hues: ReadonlyMap<string, number> }) {
  const project = useProject()
  const [outcome, setOutcome] = useState<FindOutcome>('')
  const finds = useInfiniteQuery(listFindsQuery(project, list.id, outcome))
  return (
    <Box px="4" pb="8" overflowY="auto">
      <Finds counts={list} outcome={outcome} onOutcome={setOutcome} query={finds} lane={LANE} hues={hues} />
    </Box>
  )
}

interface NamesProps {
  list: ListShown
  show: string
  /** How many there are of this kind, as far as that is known. */
  count: number | undefined
  cursor: EntryCursor
  lead: boolean
}

type Opened = 'add' | 'edit' | 'harm' | null

function Names({ list, show, count, cursor, lead }: NamesProps) {
  const project = useProject()
  const [search, setSearch] = useState('')
  const [order, setOrder] = useState(show === 'harmful' ? 'harm' : 'name')
  const [opened, setOpened] = useState<Opened>(null)
  const wish: EntriesWish = { search: useDeferredValue(search), show, order }
  const query = useInfiniteQuery(entriesQuery(project, list.id, wish))
  const { rows: entries = NO_ROWS, rest } = usePages(query, rowsOf)
  const marks = useMarks(entries, JSON.stringify(wish))
  const client = useQueryClient()
  /** What is deleted is not asked for again; the cursor goes on. */
  const onGone = (gone: (id: number) => boolean) => {
    if (cursor.id === null || !gone(cursor.id)) return
    const at = entries.findIndex(({ id }) => id === cursor.id)
    client.removeQueries({ queryKey: entryQuery(project, list.id, cursor.id).queryKey })
    cursor.at(entries.find(({ id }, k) => k > at && !gone(id)) ?? entries.findLast(({ id }) => !gone(id)) ?? null)
  }
  const { toggle, remove, switchMany, removeMany } = useListActs(list, marks.clear, onGone, marks.has)
  // Of what is searched for it is not known how many there are before all of them have come.
  const markable = search === '' && order === 'name'
  const many: ManyWish = marks.marks.all ? { filter: wish, ...(count === undefined ? {} : { expected: count }) } : { entries: [...marks.marks.some] }
  const marked = marks.marks.all ? (count ?? 0) : marks.marks.some.size
  const at = entries.find(({ id }) => id === cursor.id) ?? cursor.entry
  const step = (by: number) => {
    const next = stepped(entries, ({ id }) => id, cursor.id, by) ?? entries[0]
    if (next) cursor.at(next)
  }
  const moving: KeyBinding[] = [
    { keys: ['arrowdown'], caps: ['↓'], label: 'next name', run: () => step(1), quiet: true, repeats: true },
    { keys: ['arrowup'], caps: ['↑'], label: 'name before', run: () => step(-1), quiet: true, repeats: true },
  ]
  const leads: KeyBinding[] = [
    { keys: ['+'], caps: ['+'], label: 'add a name', run: () => setOpened('add') },
    ...(at
      ? [
          { keys: ['t'], caps: ['t'], label: at.on ? 'turn off' : 'turn on', run: () => toggle.run(at) },
          { keys: ['enter'], caps: ['↵'], label: 'edit the name', run: () => setOpened('edit') },
          { keys: ['backspace'], caps: ['⌫'], label: 'delete the name', run: () => remove.run(at), quiet: true },
          { keys: ['m'], caps: ['m'], label: 'mark', run: () => marks.toggle(at.id) },
        ]
      : []),
    ...(markable ? [{ keys: ['ctrl+a'], caps: ['ctrl', 'a'], label: 'mark all', run: marks.markAll, quiet: true }] : []),
  ]
  useKeys(lead ? [...moving, ...leads] : moving)
  return (
    <>
      <Flex px="4" pb="2" gap="3" align="flex-end" css={{ '& button': { flexShrink: 0 }, '& > button, & > [role=group]': { mb: '2.5' } }}>
        <Box flex="1" minW="32">
          <TextField label="search names and variants" value={search} onChange={setSearch} />
        </Box>
        <Box w="28" flexShrink="0">
          <ChoiceField label="order" value={order} options={ORDERS} onChange={setOrder} />
        </Box>
        {lead && !marks.any && <Act onClick={() => setOpened('add')}>add a name</Act>}
        {lead && !marks.any && show === 'harmful' && <QuietAct onClick={() => setOpened('harm')}>turn off what harms</QuietAct>}
        {lead && marks.any && (
          <Flex gap="2" align="center" role="group" aria-label="marked names">
            <Act loading={switchMany.busy} onClick={() => switchMany.run({ ...many, on: false })}>
              turn off {number(marked)}
            </Act>
            <QuietAct onClick={() => switchMany.run({ ...many, on: true })}>turn on</QuietAct>
            <BadAct loading={removeMany.busy} onClick={() => removeMany.run(many)}>
              delete
            </BadAct>
            <QuietAct onClick={marks.clear}>unmark</QuietAct>
          </Flex>
        )}
      </Flex>
      <EntryRows entries={entries} rest={rest} chosen={cursor.id} onChoose={cursor.at} marks={lead ? marks : undefined} passing={query.isPlaceholderData} />
      <Ask query={query}>
        {() =>
          entries.length === 0 && (
            <Box px="4" py="3" color="second">
              {search ? 'No name fits this search.' : show || order !== 'name' ? 'There is no such name.' : 'This list holds no name yet.'}
            </Box>
          )
        }
      </Ask>
      {opened === 'add' && <EntryForm list={list} onClose={() => setOpened(null)} onDone={cursor.at} />}
      {opened === 'edit' && at && <EntryForm list={list} entry={at} onClose={() => setOpened(null)} onDone={cursor.at} />}
      {opened === 'harm' && <HarmWindow list={list} onClose={() => setOpened(null)} onTurnOff={(numbers) => switchMany.run({ entries: numbers, on: false })} />}
    </>
  )
}
