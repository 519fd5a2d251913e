import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useMutation, useQueryClient } from '@tanstack/react-query'
import { type SubmitEvent, useState } from 'react'

import { api, body, messageOf } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import type { EntryPage, EntryShown, ListShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, QuietAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Heading } from '../../parts/layout'
import { tell } from '../../parts/notes'
import { RowList } from '../../parts/RowList'
import { useAct } from '../../parts/useAct'
import { usePages } from '../../parts/usePages'
import { FormWindow } from '../../parts/Window'
import { plural } from '../../parts/words'
import { entriesQuery } from './queries'

const rowsOf = (page: EntryPage) => page.entries
const NO_ROWS: readonly EntryShown[] = []

const asText = (variants: readonly string[]) => variants.join('; ')
const asVariants = (text: string) => text.split(';').map((v) => v.trim()).filter(Boolean)

/** The names of a list: add, edit, delete, and restore what was deleted last. */
export function Entries({ list, lead }: { list: ListShown; lead: boolean }) {
  const project = useProject()
  const [search, setSearch] = useState('')
  const [chosen, setChosen] = useState<number | null>(null)
  const [changing, setChanging] = useState<EntryShown | null>(null)
  const [deleted, setDeleted] = useState<EntryShown[]>([])
  const query = useInfiniteQuery(entriesQuery(project, list.id, search))
  const { rows: entries = NO_ROWS, rest } = usePages(query, rowsOf)
  const path = { project, list_id: list.id }
  const remove = useAct((entry: EntryShown) => api.DELETE('/api/projects/{project}/lists/{list_id}/entries/{entry_id}', { params: { path: { ...path, entry_id: entry.id } } }), {
    changes: 'lists',
    onDone: (_, entry) => setDeleted((before) => [...before, entry]),
  })
  const restore = useAct(
    ({ preferred, variants, note }: EntryShown) => body(api.POST('/api/projects/{project}/lists/{list_id}/entries', { params: { path }, body: { preferred, variants, note } })),
    {
      changes: 'lists',
      onDone: (_, entry) => {
        setDeleted((before) => before.filter(({ id }) => id !== entry.id))
        tell(`“${entry.preferred}” is back in the list.`)
      },
    },
  )
  const last = deleted.at(-1)
  const putBack = () => last && restore.run(last)
  useKeys(lead && last ? [{ keys: ['ctrl+z'], caps: ['ctrl', 'z'], label: 'undo the deletion', run: putBack }] : [])

  return (
    <Flex direction="column" h="full" mx="-3.5" my="-3.5" pt="3.5">
      <Box px="3.5">
        <Heading
          side={
            last && (
              <QuietAct loading={restore.busy} onClick={putBack}>
                restore “{last.preferred}”
              </QuietAct>
            )
          }
        >
          {plural(list.entries, 'name')}
        </Heading>
        <TextField label="search names and variants" value={search} onChange={setSearch} />
      </Box>
      <RowList rows={entries} keyOf={(e) => e.id} chosen={chosen} onChoose={(e) => setChosen(e.id)} height={42} label="names" rest={rest}>
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
                <QuietAct onClick={() => setChanging(entry)}>edit</QuietAct>
                <QuietAct color="bad" loading={remove.of?.id === entry.id} onClick={() => remove.run(entry)}>
                  delete
                </QuietAct>
              </Flex>
            )}
          </Box>
        )}
      </RowList>
      <Ask query={query}>
        {() =>
          entries.length === 0 && (
            <Box px="3.5" pb="4" color="second">
              {search ? 'No name fits this search.' : 'This list holds no name yet.'}
            </Box>
          )
        }
      </Ask>
      {lead && (
        <AddEntry project={project} list={list.id} onDone={(made) => setChosen(made.id)} />
      )}
      {changing && <EntryForm project={project} list={list.id} entry={changing} onClose={() => setChanging(null)} />}
    </Flex>
  )
}

function AddEntry({ project, list, onDone }: { project: string; list: number; onDone: (made: EntryShown) => void }) {
  const [name, setName] = useState('')
  const [variants, setVariants] = useState('')
  const client = useQueryClient()
  const adding = useMutation({
    mutationFn: () =>
      body(
        api.POST('/api/projects/{project}/lists/{list_id}/entries', {
          params: { path: { project, list_id: list } },
          body: { preferred: name, variants: asVariants(variants), note: '' },
        }),
      ),
    onSuccess: (made) => {
      setName('')
      setVariants('')
      onDone(made)
      invalidate(client, project, 'lists')
    },
  })
  const add = (event: SubmitEvent) => {
    event.preventDefault()
    if (!adding.isPending) adding.mutate()
  }
  return (
    <Box asChild px="3.5" py="2" borderTopWidth="1px" borderColor="hairline">
      <form onSubmit={add}>
        <TextField label="new name" value={name} error={adding.error ? messageOf(adding.error) : undefined} onChange={setName} />
        <TextField label="variants, with semicolons between" value={variants} onChange={setVariants} />
        <Act type="submit" disabled={name.trim() === ''} loading={adding.isPending}>
          add name
        </Act>
      </form>
    </Box>
  )
}

function EntryForm({ project, list, entry, onClose }: { project: string; list: number; entry: EntryShown; onClose: () => void }) {
  const client = useQueryClient()
  const [name, setName] = useState(entry.preferred)
  const [variants, setVariants] = useState(asText(entry.variants))
  const [note, setNote] = useState(entry.note)
  const send = async (over?: number) => {
    await api.PUT('/api/projects/{project}/lists/{list_id}/entries/{entry_id}', {
      params: { path: { project, list_id: list, entry_id: entry.id } },
      body: { preferred: name, variants: asVariants(variants), note, version: over ?? entry.version },
    })
    invalidate(client, project, 'lists')
  }
  return (
    <FormWindow title={`Edit “${entry.preferred}”`} send="save" fields={['preferred']} onClose={onClose} onSend={send}>
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
