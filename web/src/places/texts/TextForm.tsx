import { Grid } from '@chakra-ui/react'
import { useState } from 'react'

import { api, body as answer } from '../../api/client'
import { useProject } from '../../api/project'
import type { NewTextWish, TextShown } from '../../api/schema'
import { ChoiceField, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'

export const SPLITS = [
  { value: 'none', label: 'no split' },
  { value: 'train', label: 'train' },
  { value: 'dev', label: 'dev' },
  { value: 'test', label: 'test' },
]

interface TextFormProps {
  text?: TextShown
  onClose: () => void
  onDone: (text: TextShown) => void
}

/** Paste a new text, or change what is said of one; its body stays. */
export function TextForm({ text, onClose, onDone }: TextFormProps) {
  const project = useProject()
  const [title, setTitle] = useState(text?.title ?? '')
  const [group, setGroup] = useState(text?.group ?? '')
  const [dated, setDated] = useState(text?.dated ?? '')
  const [split, setSplit] = useState(text?.split ?? 'none')
  const [body, setBody] = useState('')
  const send = async (over?: number) => {
    const wish: Omit<NewTextWish, 'body'> = { title, group, split, dated: dated === '' ? null : dated }
    const path = { project }
    const made = text
      ? await answer(api.PUT('/api/projects/{project}/texts/{text_id}', { params: { path: { ...path, text_id: text.id } }, body: { ...wish, version: over ?? text.version } }))
      : await answer(api.POST('/api/projects/{project}/texts', { params: { path }, body: { ...wish, body } }))
    onDone(made)
  }
  return (
    <FormWindow
      title={text ? `Edit “${text.title}”` : 'Paste a new text'}
      send={text ? 'save' : 'add'}
      fields={['title', 'split', ...(text ? [] : ['body'])]}
      onClose={onClose}
      onSend={send}
    >
      {(errorOf) => (
        <>
          <TextField label="title" value={title} autoFocus error={errorOf('title')} onChange={setTitle} />
          <Grid templateColumns="1fr 1fr 1fr" gap="3">
            <TextField label="group" value={group} help="texts that belong together" onChange={setGroup} />
            <TextField label="date" type="date" value={dated} onChange={setDated} />
            <ChoiceField label="split" value={split} options={SPLITS} error={errorOf('split')} onChange={setSplit} />
          </Grid>
          {!text && <TextField label="body" value={body} lines={11} serif error={errorOf('body')} onChange={setBody} />}
        </>
      )}
    </FormWindow>
  )
}
