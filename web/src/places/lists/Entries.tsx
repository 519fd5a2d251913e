import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query'
import { type SubmitEvent, useCallback, useMemo, useState } from 'react'

import { api, body, messageOf } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import type { EntryShown, ListShown } from '../../api/schema'
import { Act, QuietAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Heading } from '../../parts/layout'
import { tell, tellError } from '../../parts/notes'
import { RowList } from '../../parts/RowList'
import { FormWindow } from '../../parts/Window'
import { plural } from '../../parts/words'
import { entriesQuery } from './queries'

const asText = (variants: readonly string[]) => variants.join('; ')
const asVariants = (text: string) => text.split(';').map((v) => v.trim()).filter(Boolean)

/** The names of a list: add, change, remove, and put back what was removed last. */
export function Entries({ list, lead }: { list: ListShown; lead: boolean }) {
  const project = useProject()
  const client = useQueryClient()
  const [search, setSearch] = useState('')
  const [chosen, setChosen] = useState<number | null>(null)
  const [changing, setChanging] = useState<EntryShown | null>(null)
  const [removed, setRemoved] = useState<EntryShown[]>([])
  const query = useInfiniteQuery(entriesQuery(project, list.id, search))
  const entries = useMemo(() => query.data?.pages.flatMap((page) => page.entries) ?? [], [query.data])
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = query
  const more = useCallback(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage()
  }, [hasNextPage, isFetchingNextPage, fetchNextPage])
  const looked = () => invalidate(client, project, 'lists')
  const path = { project, list_id: list.id }

  const remove = async (entry: EntryShown) => {
    try {
      await api.DELETE('/api/projects/{project}/lists/{list_id}/entries/{entry_id}', { params: { path: { ...path, entry_id: entry.id } } })
      setRemoved([...removed, entry])
      looked()
    } catch (error) {
      tellError(error)
    }
  }
  const putBack = async () => {
    const entry = removed.at(-1)
    if (!entry) return
    try {
      const { preferred, variants, note } = entry
      await api.POST('/api/projects/{project}/lists/{list_id}/entries', { params: { path }, body: { preferred, variants, note } })
      setRemoved(removed.slice(0, -1))
      tell(`“${preferred}” is back in the list.`)
      looked()
    } catch (error) {
      tellError(error)
    }
  }
  useKeys(lead && removed.length > 0 ? [{ keys: ['ctrl+z'], caps: ['ctrl', 'z'], label: 'put the removed name back', run: () => void putBack() }] : [])

  return (
    <Flex direction="column" h="full" mx="-3.5" my="-3.5" pt="3.5">
      <Box px="3.5">
        <Heading side={removed.length > 0 && <QuietAct onClick={() => void putBack()}>put “{removed.at(-1)?.preferred}” back</QuietAct>}>
          {plural(list.entries, 'name')}
        </Heading>
        <TextField label="search names and variants" value={search} onChange={setSearch} />
      </Box>
      <RowList rows={entries} keyOf={(e) => e.id} chosen={chosen} onChoose={(e) => setChosen(e.id)} height={42} label="names" onEnd={more}>
        {(entry, isChosen) => (
          <Box px="3" py="1">
            <Box>{entry.preferred}</Box>
            {entry.variants.length > 0 && (
              <Box fontSize="small" color="second">
                also {entry.variants.join(', ')}
              </Box>
            )}
            {entry.note && (
              <Box fontSize="small" color="second" fontStyle="italic">
                {entry.note}
              </Box>
            )}
            {isChosen && lead && (
              <Flex gap="1" ml="-2">
                <QuietAct onClick={() => setChanging(entry)}>change</QuietAct>
                <QuietAct color="bad" onClick={() => void remove(entry)}>
                  remove
                </QuietAct>
              </Flex>
            )}
          </Box>
        )}
      </RowList>
      {query.isSuccess && entries.length === 0 && (
        <Box px="3.5" pb="4" color="second">
          {search ? 'No name fits this search.' : 'This list holds no name yet.'}
        </Box>
      )}
      {lead && (
        <AddEntry
          project={project}
          list={list.id}
          onDone={(made) => {
            setChosen(made.id)
            looked()
          }}
        />
      )}
      {changing && <EntryForm project={project} list={list.id} entry={changing} onClose={() => setChanging(null)} onDone={looked} />}
    </Flex>
  )
}

function AddEntry({ project, list, onDone }: { project: string; list: number; onDone: (made: EntryShown) => void }) {
  const [name, setName] = useState('')
  const [variants, setVariants] = useState('')
  const [error, setError] = useState<string | undefined>()
  const add = async (event: SubmitEvent) => {
    event.preventDefault()
    try {
      setError(undefined)
      const made = await body(
        api.POST('/api/projects/{project}/lists/{list_id}/entries', {
          params: { path: { project, list_id: list } },
          body: { preferred: name, variants: asVariants(variants), note: '' },
        }),
      )
      setName('')
      setVariants('')
      onDone(made)
    } catch (fault) {
      setError(messageOf(fault))
    }
  }
  return (
    <Box asChild px="3.5" py="2" borderTopWidth="1px" borderColor="hairline">
      <form onSubmit={(event) => void add(event)}>
        <TextField label="new name" value={name} error={error} onChange={setName} />
        <TextField label="variants, with semicolons between" value={variants} onChange={setVariants} />
        <Act type="submit" disabled={name.trim() === ''}>
          add name
        </Act>
      </form>
    </Box>
  )
}

function EntryForm(props: { project: string; list: number; entry: EntryShown; onClose: () => void; onDone: () => void }) {
  const { project, list, entry, onClose, onDone } = props
  const [name, setName] = useState(entry.preferred)
  const [variants, setVariants] = useState(asText(entry.variants))
  const [note, setNote] = useState(entry.note)
  const send = async (over?: number) => {
    await api.PUT('/api/projects/{project}/lists/{list_id}/entries/{entry_id}', {
      params: { path: { project, list_id: list, entry_id: entry.id } },
      body: { preferred: name, variants: asVariants(variants), note, version: over ?? entry.version },
    })
    onDone()
  }
  return (
    <FormWindow title={`Change “${entry.preferred}”`} send="save" fields={['preferred']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <TextField label="name" value={name} autoFocus error={errorOf('preferred')} onChange={setName} />
          <TextField label="variants, with semicolons between" value={variants} onChange={setVariants} />
          <TextField label="note" value={note} lines={2} onChange={setNote} />
        </>
      )}
    </FormWindow>
  )
}
