import { useState } from 'react'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { ListShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { CheckField, ChoiceField, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'

export function ListForm({ list, onClose, onDone }: { list?: ListShown; onClose: () => void; onDone: (list: ListShown) => void }) {
  const project = useProject()
  const { types } = useScheme()
  const [name, setName] = useState(list?.name ?? '')
  const [chosen, setChosen] = useState(list?.type ?? '')
  const [on, setOn] = useState(list?.on ?? true)
  const type = chosen || (types[0]?.code ?? '')
  const send = async (over?: number) => {
    const wish = { name, type, on }
    const path = { project }
    const made = list
      ? await body(api.PUT('/api/projects/{project}/lists/{list_id}', { params: { path: { ...path, list_id: list.id } }, body: { ...wish, version: over ?? list.version } }))
      : await body(api.POST('/api/projects/{project}/lists', { params: { path }, body: wish }))
    onDone(made)
  }
  return (
    <FormWindow title={list ? `Edit “${list.name}”` : 'New list'} send={list ? 'save' : 'add'} fields={['name', 'type']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <TextField label="name" value={name} autoFocus error={errorOf('name')} onChange={setName} />
          <ChoiceField
            label="type of its names"
            value={type}
            options={types.map((t) => ({ value: t.code, label: `${t.code} ${t.name}` }))}
            error={errorOf('type')}
            onChange={setChosen}
          />
          <CheckField label="switched on" checked={on} onChange={setOn} />
        </>
      )}
    </FormWindow>
  )
}
