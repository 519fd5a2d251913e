import { Box, Flex, Grid } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query'
import { useDeferredValue, useEffect, useState } from 'react'

import { api, body, messageOf } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import type { ListImportShown, ListShown, StarterKindShown, StarterMeaningShown, StarterNameShown, StarterPage } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, ChoiceField, LinkAct, QuietAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Mark } from '../../parts/Mark'
import { tell } from '../../parts/notes'
import { RowList } from '../../parts/RowList'
import { useAct } from '../../parts/useAct'
import { useLatest } from '../../parts/useLatest'
import { useMarks } from '../../parts/useMarks'
import { usePages } from '../../parts/usePages'
import { Window } from '../../parts/Window'
import { number, plural } from '../../parts/words'
import { isBusy, listImportQuery } from './importing'
import { AS_EVER } from './options'
import { meaningsQuery, starterKindsQuery, starterNamesQuery, type StarterWish } from './queries'
import { useUndoList } from './useListActs'

type Sort = 'names' | 'words' | 'both'

const SORTS = [
  { value: 'names', label: 'names of single things' },
  { value: 'words', label: 'words for kinds of things' },
  { value: 'both', label: 'both' },
]

/** What is looked through: all of a kind, or all beneath a meaning. */
interface Chosen {
  kind: string
  beneath: number | null
  title: string
  meaning: string
}

interface StarterWindowProps {
  lists: readonly ListShown[]
  onClose: () => void
  /** Hears of the list that they went into. */
  onDone: (listId: number) => void
}

/** Names of the general lexicon, to look through and to take over. */
export function StarterWindow({ lists, onClose, onDone }: StarterWindowProps) {
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [sort, setSort] = useState<Sort>('names')
  const choose = (next: Chosen, has: Sort) => {
    setChosen(next)
    setSort(has)
  }
  return (
    <Window title="Starter lists from the general lexicon" wide stays onClose={onClose}>
      {chosen ? (
        <LookThrough key={`${chosen.kind} ${chosen.beneath}`} chosen={chosen} sort={sort} onSort={setSort} onChoose={choose} onBack={() => setChosen(null)} lists={lists} onClose={onClose} onDone={onDone} />
      ) : (
        <Offers onChoose={choose} onClose={onClose} />
      )}
    </Window>
  )
}

/** Where there are names, they are what is looked for most. */
const sortOf = (names: number, words: number): Sort => (names === 0 ? 'words' : words > names ? 'both' : 'names')

const ofMeaning = (one: StarterMeaningShown): Chosen => ({ kind: '', beneath: one.number, title: one.words[0] ?? '', meaning: one.meaning })

function Offers({ onChoose, onClose }: { onChoose: (chosen: Chosen, sort: Sort) => void; onClose: () => void }) {
  const project = useProject()
  const [search, setSearch] = useState('')
  const wanted = useDeferredValue(search.trim())
  const kinds = useQuery(starterKindsQuery(project))
  const found = useQuery({ ...meaningsQuery(project, wanted), enabled: wanted !== '' && kinds.data?.installed === true })
  return (
    <>
      <Ask query={kinds}>
        {({ installed, kinds: every }) =>
          installed ? (
            <>
              <TextField label="search for a kind of thing, such as city, month or ship" value={search} autoFocus onChange={setSearch} />
              {wanted === '' ? (
                <Grid templateColumns="repeat(auto-fill, minmax(var(--chakra-sizes-64), 1fr))" columnGap="5" role="group" aria-label="kinds">
                  {every.map((one) => (
                    <KindRow key={one.kind} of={one} onChoose={onChoose} />
                  ))}
                </Grid>
              ) : (
                <Ask query={found}>
                  {(meanings) => (
                    <Box role="group" aria-label="meanings">
                      {meanings.length === 0 && <Box color="second">Nothing in the lexicon is called so that other things fall under.</Box>}
                      {meanings.map((one) => (
                        <Box key={one.number} mb="1">
                          <LinkAct onClick={() => onChoose(ofMeaning(one), sortOf(one.names, one.kinds))}>{one.words.join(', ')}</LinkAct>{' '}
                          <Box as="span" color="second">
                            {told(one.names, one.kinds)} · {short(one.meaning)}
                          </Box>
                        </Box>
                      ))}
                    </Box>
                  )}
                </Ask>
              )}
            </>
          ) : (
            <Box role="alert">There is no general lexicon here: the Debian package wordnet-base is not installed.</Box>
          )
        }
      </Ask>
      <Flex justify="flex-end" py="3">
        <QuietAct onClick={onClose}>cancel</QuietAct>
      </Flex>
    </>
  )
}

function KindRow({ of: { kind, names, words }, onChoose }: { of: StarterKindShown; onChoose: (chosen: Chosen, sort: Sort) => void }) {
  return (
    <Flex justify="space-between" gap="3" mb="1">
      <LinkAct onClick={() => onChoose({ kind, beneath: null, title: kind, meaning: '' }, sortOf(names, 0))}>{kind}</LinkAct>
      <Box color="second">{told(names, words)}</Box>
    </Flex>
  )
}

const told = (names: number, words: number) => [names > 0 && plural(names, 'name'), words > 0 && plural(words, 'word')].filter(Boolean).join(', ')

/** Without its examples. */
const short = (meaning: string) => meaning.split('; "')[0] ?? ''

const rowsOf = (page: StarterPage) => page.names.map((name) => ({ ...name, id: name.number }))

interface LookProps extends StarterWindowProps {
  chosen: Chosen
  sort: Sort
  onSort: (sort: Sort) => void
  onChoose: (chosen: Chosen, sort: Sort) => void
  onBack: () => void
}

const NEW = 'new'

function LookThrough({ chosen, sort, onSort, onChoose, onBack, lists, onClose, onDone }: LookProps) {
  const project = useProject()
  const { types } = useScheme()
  const client = useQueryClient()
  const [search, setSearch] = useState('')
  const [into, setInto] = useState(NEW)
  const [name, setName] = useState(chosen.title)
  const [type, setType] = useState('')
  const wish: StarterWish = { kind: chosen.kind, ...(chosen.beneath === null ? {} : { beneath: chosen.beneath }), sort, search: useDeferredValue(search) }
  const query = useInfiniteQuery(starterNamesQuery(project, wish))
  const { rows = [], rest } = usePages(query, rowsOf)
  const marks = useMarks(rows, JSON.stringify(wish))
  const [at, setAt] = useState<number | null>(null)
  useKeys(at === null ? [] : [{ keys: ['m'], caps: ['m'], label: 'mark', run: () => marks.toggle(at) }], 1)
  const [taken, setTaken] = useState<ListImportShown | null>(null)
  const first = query.data?.pages[0]
  const count = marks.any ? (marks.marks.all ? (first?.total ?? 0) : marks.marks.some.size) : (first?.total ?? 0)
  const take = useAct(
    async () => {
      let listId = Number(into)
      if (into === NEW) {
        const made = await body(api.POST('/api/projects/{project}/lists', { params: { path: { project } }, body: { name, type, on: true, options: AS_EVER } }))
        setInto(String(made.id))
        listId = made.id
        invalidate(client, project, 'lists')
      }
      const numbers = marks.any && !marks.marks.all ? [...marks.marks.some] : null
      return body(api.POST('/api/projects/{project}/starters/take', { params: { path: { project } }, body: { ...wish, list_id: listId, numbers } }))
    },
    { onDone: setTaken },
  )
  return (
    <>
      <Flex gap="3" align="baseline" mb="1">
        <Box fontWeight="bold">{chosen.title}</Box>
        <Box color="second" flex="1">
          {short(chosen.meaning)}
        </Box>
        <QuietAct onClick={onBack}>choose another</QuietAct>
      </Flex>
      {first && first.narrower.length > 0 && <NarrowerRow narrower={first.narrower} sort={sort} onChoose={(one) => onChoose(ofMeaning(one), sort)} />}
      <Grid templateColumns="1fr 1fr" columnGap="4">
        <TextField label="search these" value={search} onChange={setSearch} />
        <ChoiceField label="which" value={sort} options={SORTS} onChange={(value) => onSort(value as Sort)} />
      </Grid>
      <Flex justify="space-between" color="second" mb="1">
        <Box>{first ? `${plural(first.total, 'name')}; m marks one, and only marked ones are taken then` : ''}</Box>
        {marks.any && <LinkAct onClick={marks.clear}>unmark</LinkAct>}
      </Flex>
      <Flex direction="column" h="64" borderWidth="1px" borderColor="hairline">
        <RowList rows={rows} keyOf={({ id }) => id} chosen={at} onChoose={({ id }) => setAt(id)} height={42} label="names of the lexicon" rest={rest} passing={query.isPlaceholderData}>
          {(row) => <NameRow row={row} marks={marks} />}
        </RowList>
        <Ask query={query}>{() => rows.length === 0 && <Box p="3" color="second">There is no such name here.</Box>}</Ask>
      </Flex>
      <Grid templateColumns="repeat(3, 1fr)" columnGap="4" mt="3">
        <ChoiceField label="take them into" value={into} options={[{ value: NEW, label: 'a new list' }, ...lists.map((one) => ({ value: String(one.id), label: one.name }))]} onChange={setInto} />
        {into === NEW && (
          <>
            <TextField label="its name" value={name} onChange={setName} />
            <ChoiceField label="type of its names" value={type} options={[{ value: '', label: 'choose one' }, ...types.map((t) => ({ value: t.code, label: `${t.code} ${t.name}` }))]} onChange={setType} />
          </>
        )}
      </Grid>
      {taken && <Taking held={taken} onDone={onDone} onFailed={() => setTaken(null)} />}
      <Flex justify="flex-end" gap="2" py="3">
        <QuietAct onClick={onClose}>{taken ? 'close' : 'cancel'}</QuietAct>
        <Act disabled={count === 0 || (into === NEW && (name.trim() === '' || type === ''))} loading={take.busy || taken !== null} onClick={() => take.run()}>
          take {plural(count, 'name')}
        </Act>
      </Flex>
    </>
  )
}

const counted = { names: (one: StarterMeaningShown) => one.names, words: (one: StarterMeaningShown) => one.kinds, both: (one: StarterMeaningShown) => one.names + one.kinds }

function NarrowerRow({ narrower, sort, onChoose }: { narrower: readonly StarterMeaningShown[]; sort: Sort; onChoose: (one: StarterMeaningShown) => void }) {
  const [all, setAll] = useState(false)
  const seen = all ? narrower : narrower.slice(0, 8)
  return (
    <Flex gap="3" wrap="wrap" mb="2" role="group" aria-label="narrower">
      <Box color="second">only:</Box>
      {seen.map((one) => (
        <LinkAct key={one.number} title={short(one.meaning)} onClick={() => onChoose(one)}>
          {one.words[0]} {number(counted[sort](one))}
        </LinkAct>
      ))}
      {seen.length < narrower.length && <LinkAct onClick={() => setAll(true)}>more</LinkAct>}
    </Flex>
  )
}

function NameRow({ row, marks }: { row: StarterNameShown & { id: number }; marks: ReturnType<typeof useMarks> }) {
  const [name = '', ...variants] = row.words
  return (
    <Flex px="3" py="1" gap="3" align="flex-start">
      <Mark id={row.id} name={name} marks={marks} />
      <Box flex="1" minW="0">
        <Box truncate>
          <b>{name}</b>
          {variants.length > 0 && (
            <Box as="span" color="second">
              {' '}
              also {variants.join(', ')}
            </Box>
          )}
        </Box>
        <Box truncate fontSize="small" color="second">
          {short(row.meaning)}
        </Box>
      </Box>
    </Flex>
  )
}

/** Says how far it is, and what came of it. */
function Taking({ held, onDone, onFailed }: { held: ListImportShown; onDone: (listId: number) => void; onFailed: () => void }) {
  const project = useProject()
  const client = useQueryClient()
  const undo = useUndoList()
  const query = useQuery({ ...listImportQuery(project, held.list_id, held.id), refetchInterval: ({ state }) => (!state.data || isBusy(state.data) ? 300 : false) })
  const now = query.data ?? held
  const isOver = !isBusy(now)
  const end = useLatest(() => {
    invalidate(client, project, 'lists')
    const said = now.work?.message ?? ''
    if (now.state !== 'kept') {
      tell(said || 'The names were not taken.')
      onFailed()
      return
    }
    const { act } = now
    tell(said, act === null ? undefined : { label: 'undo', onClick: () => undo.run({ id: act, said: `the import of “${now.name}”` }) })
    onDone(now.list_id)
  })
  useEffect(() => {
    if (isOver) end()
  }, [isOver, end])
  return (
    <Box role="status" mt="2">
      {query.error ? messageOf(query.error) : 'The names are taken into the list.'}
    </Box>
  )
}
