import { Box, Flex, Grid } from '@chakra-ui/react'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { FieldWish, TemplateShown, TemplateWish } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { CheckField, ChoiceField, QuietAct, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'

interface Draft {
  id: number
  name: string
  types: string
  cues: string
  required: boolean
}

const words = (text: string) => text.split(/[\s,]+/).filter(Boolean)
let last = 0

const draftOf = (field?: FieldWish): Draft => ({
  id: ++last,
  name: field?.name ?? '',
  types: field?.types.join(' ') ?? '',
  cues: field?.cues.join(' ') ?? '',
  required: field?.required ?? false,
})

interface TemplateFormProps {
  template?: TemplateShown
  onClose: () => void
  onDone: (template: TemplateShown) => void
}

/** The fields of a record, the types that fill them, and the words that claim a span for a field. */
export function TemplateForm({ template, onClose, onDone }: TemplateFormProps) {
  const project = useProject()
  const { types } = useScheme()
  const [name, setName] = useState(template?.name ?? '')
  const [fields, setFields] = useState<Draft[]>(() => template?.fields.map(draftOf) ?? [draftOf()])
  const [wanted, setAnchor] = useState(template?.anchor ?? '')
  const anchor = fields.some((f) => f.name === wanted) ? wanted : (fields[0]?.name ?? '')
  const set = (id: number, part: Partial<Draft>) => {
    const before = fields.find((f) => f.id === id)
    if (before?.name === wanted && part.name !== undefined) setAnchor(part.name)
    setFields(fields.map((f) => (f.id === id ? { ...f, ...part } : f)))
  }
  const send = async (over?: number) => {
    const wish: TemplateWish = {
      name,
      anchor,
      fields: fields.map((f) => ({ name: f.name, types: words(f.types.toUpperCase()), cues: words(f.cues), required: f.required })),
    }
    const path = { project }
    const made = template
      ? await body(api.PUT('/api/projects/{project}/records/templates/{template_id}', { params: { path: { ...path, template_id: template.id } }, body: { ...wish, version: over ?? template.version } }))
      : await body(api.POST('/api/projects/{project}/records/templates', { params: { path }, body: wish }))
    onDone(made)
  }
  return (
    <FormWindow title={template ? `Edit “${template.name}”` : 'New record template'} send={template ? 'save' : 'add'} fields={['name', 'anchor']} onClose={onClose} onSend={send} wide>
      {(errorOf) => (
        <>
          <Grid templateColumns="1fr 1fr" gap="3">
            <TextField label="name" value={name} autoFocus error={errorOf('name')} onChange={setName} />
            <ChoiceField
              label="anchor: one record for each value of"
              value={anchor}
              options={fields.map((f) => ({ value: f.name, label: f.name || '(no name yet)' }))}
              error={errorOf('anchor')}
              onChange={setAnchor}
            />
          </Grid>
          <Box color="second" fontSize="small" mb="2">
            Types of the scheme: {types.map((t) => t.code).join(' ')}. A cue is a word that, standing before a span in its
            sentence, claims it for the field; a field without cues takes what no other claims.
          </Box>
          {fields.map((field, i) => (
            <Grid key={field.id} templateColumns="2fr 2fr 4fr auto auto" gap="2" alignItems="start">
              <TextField label="field" quietLabel={i > 0} value={field.name} onChange={(value) => set(field.id, { name: value })} />
              <TextField label="types" quietLabel={i > 0} value={field.types} mono onChange={(value) => set(field.id, { types: value })} />
              <TextField label="cues" quietLabel={i > 0} value={field.cues} onChange={(value) => set(field.id, { cues: value })} />
              <Box pt={i > 0 ? '1' : '6'}>
                <CheckField label="required" checked={field.required} onChange={(required) => set(field.id, { required })} />
              </Box>
              <Box pt={i > 0 ? '0' : '5'}>
                <QuietAct aria-label={`delete field ${field.name}`} onClick={() => setFields(fields.filter((f) => f.id !== field.id))}>
                  delete
                </QuietAct>
              </Box>
            </Grid>
          ))}
          <Flex mb="2">
            <QuietAct onClick={() => setFields([...fields, draftOf()])}>add a field</QuietAct>
          </Flex>
        </>
      )}
    </FormWindow>
  )
}
