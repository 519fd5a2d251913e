import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import type { EntryShown, ListShown } from '../../api/schema'
import { CheckField, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { asPhrases } from './options'
import { wishOf } from './useListActs'

const FIELDS = ['preferred', 'variants', 'identifier', 'note'] as const

/** One name with its variants: a new one, or one of the list. */
export function EntryForm({ list, entry, onClose, onDone }: { list: ListShown; entry?: EntryShown; onClose: () => void; onDone: (entry: EntryShown) => void }) {
  const project = useProject()
  const client = useQueryClient()
  const [name, setName] = useState(entry?.preferred ?? '')
  const [variants, setVariants] = useState(entry?.variants.join('; ') ?? '')
  const [identifier, setIdentifier] = useState(entry?.identifier ?? '')
  const [note, setNote] = useState(entry?.note ?? '')
  const [on, setOn] = useState(entry?.on ?? true)
  const send = async (over?: number) => {
    const wish = { preferred: name, variants: asPhrases(variants), identifier, note, on }
    const path = { project, list_id: list.id }
    const made = entry
      ? await body(api.PUT('/api/projects/{project}/lists/{list_id}/entries/{entry_id}', { params: { path: { ...path, entry_id: entry.id } }, body: { ...wishOf(entry, wish), version: over ?? entry.version } }))
      : await body(api.POST('/api/projects/{project}/lists/{list_id}/entries', { params: { path }, body: { ...wish, source: '' } }))
    invalidate(client, project, 'lists')
    onDone(made)
  }
  return (
    <FormWindow title={entry ? `Edit “${entry.preferred}”` : `New name in “${list.name}”`} send={entry ? 'save' : 'add'} fields={FIELDS} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <TextField label="name" value={name} autoFocus error={errorOf('preferred')} onChange={setName} />
          <TextField label="variants" help="Other ways it is written, with semicolons between." value={variants} lines={2} error={errorOf('variants')} onChange={setVariants} />
          <TextField label="identifier" help="What it is called elsewhere for good: a number, a code, an address." value={identifier} error={errorOf('identifier')} onChange={setIdentifier} />
          <TextField label="note" value={note} lines={2} error={errorOf('note')} onChange={setNote} />
          <CheckField label="switched on" checked={on} onChange={setOn} />
        </>
      )}
    </FormWindow>
  )
}
