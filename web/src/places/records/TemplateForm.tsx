import { Box, Flex, Grid } from '@chakra-ui/react'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { FieldWish, TemplateShown, TemplateWish } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { CheckField, ChoiceField, QuietAct, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'

type Kind = FieldWish['kind']

interface Draft extends Omit<FieldWish, 'types' | 'cues' | 'allowed'> {
  id: number
  types: string
  cues: string
  allowed: string
}

const KINDS: readonly { value: Kind; label: string }[] = [
  { value: 'none', label: 'words as they are' },
  { value: 'name', label: 'a name' },
  { value: 'date', label: 'a day' },
  { value: 'time', label: 'a time of day' },
  { value: 'moment', label: 'a day, a time or both' },
  { value: 'number', label: 'a number' },
  { value: 'quantity', label: 'a quantity' },
  { value: 'money', label: 'money' },
  { value: 'code', label: 'a code' },
]
const BOUNDED: ReadonlySet<Kind> = new Set<Kind>(['date', 'time', 'moment', 'number', 'quantity', 'money'])

const words = (text: string) => text.split(/[\s,]+/).filter(Boolean)
const phrases = (text: string) => text.split(/[,\n]+/).map((one) => one.trim()).filter(Boolean)
const groupsOf = (text: string) => text.split(';').map(phrases).filter((group) => group.length > 0)
let last = 0

const EMPTY: FieldWish = {
  name: '', types: [], cues: [], required: false, description: '', many: false, shared: false, kind: 'none', unit: '', pattern: '',
  allowed: [], least: '', most: '', default: '', default_from: '',
}

const draftOf = (field: FieldWish = EMPTY): Draft => ({
  ...field,
  id: ++last,
  types: field.types.join(' '),
  cues: field.cues.join(', '),
  allowed: field.allowed.join(', '),
})

function fieldOf(draft: Draft): FieldWish {
  const field: FieldWish & { id?: number } = {
    ...draft,
    types: words(draft.types.toUpperCase()),
    cues: phrases(draft.cues),
    allowed: phrases(draft.allowed),
  }
  delete field.id
  return field
}

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
  const [wanted, setAnchor] = useState<string | null>(template?.anchor ?? null)
  const anchor = wanted !== null && (wanted === '' || fields.some((f) => f.name === wanted)) ? wanted : (fields[0]?.name ?? '')
  const [opens, setOpens] = useState(template?.opens.map((group) => group.join(', ')).join('; ') ?? '')
  const [scope, setScope] = useState(template?.scope ?? 'text')
  const [each, setEach] = useState(template?.each ?? 'entity')
  const [description, setDescription] = useState(template?.description ?? '')
  const [open, setOpen] = useState<number | null>(null)
  const set = (id: number, part: Partial<Draft>) => {
    const before = fields.find((f) => f.id === id)
    if (before?.name === wanted && part.name !== undefined) setAnchor(part.name)
    setFields(fields.map((f) => (f.id === id ? { ...f, ...part } : f)))
  }
  const send = async (over?: number) => {
    const wish: TemplateWish = {
      name,
      anchor,
      fields: fields.map(fieldOf),
      description,
      scope,
      each,
      opens: groupsOf(opens),
    }
    const path = { project }
    const made = template
      ? await body(api.PUT('/api/projects/{project}/records/templates/{template_id}', { params: { path: { ...path, template_id: template.id } }, body: { ...wish, version: over ?? template.version } }))
      : await body(api.POST('/api/projects/{project}/records/templates', { params: { path }, body: wish }))
    onDone(made)
  }
  return (
    <FormWindow title={template ? `Edit “${template.name}”` : 'New record template'} send={template ? 'save' : 'add'} fields={['name', 'anchor', 'opens']} onClose={onClose} onSend={send} wide>
      {(errorOf) => (
        <>
          <Grid templateColumns="1fr 1fr" gap="3">
            <TextField label="name" value={name} autoFocus error={errorOf('name')} onChange={setName} />
            <ChoiceField
              label="anchor: what a record is of"
              value={anchor}
              options={[...fields.map((f) => ({ value: f.name, label: f.name || '(no name yet)' })), ...(fields.some((f) => f.name === '') ? [] : [{ value: '', label: 'none: one for each text, paragraph or sentence' }])]}
              error={errorOf('anchor')}
              onChange={setAnchor}
            />
            <ChoiceField
              label="a record for each"
              value={each}
              options={[
                { value: 'entity', label: 'distinct one in a text' },
                { value: 'mention', label: 'mention' },
              ]}
              onChange={(value) => setEach(value === 'mention' ? 'mention' : 'entity')}
            />
            <ChoiceField
              label="values come from the same"
              value={scope}
              options={[
                { value: 'text', label: 'text' },
                { value: 'paragraph', label: 'paragraph' },
                { value: 'sentence', label: 'sentence' },
              ]}
              onChange={(value) => setScope(value === 'sentence' || value === 'paragraph' ? value : 'text')}
            />
            <TextField label="only where one of these has a value" value={opens} help="fields, with commas between; further groups behind a semicolon" error={errorOf('opens')} onChange={setOpens} />
            <TextField label="what it is" value={description} onChange={setDescription} />
          </Grid>
          <Box color="second" fontSize="small" mb="2">
            Types of the scheme: {types.map((t) => t.code).join(' ')}. A cue is a word, or several, that, standing before a span in
            its sentence, claims it for the field.
          </Box>
          {fields.map((field, i) => (
            <Box key={field.id} mb="1">
              <Grid templateColumns="2fr 1.5fr 3fr 2fr auto auto auto" gap="2" alignItems="start">
                <TextField label="field" quietLabel={i > 0} value={field.name} onChange={(value) => set(field.id, { name: value })} />
                <TextField label="types" quietLabel={i > 0} value={field.types} mono onChange={(value) => set(field.id, { types: value })} />
                <TextField label="cues" quietLabel={i > 0} value={field.cues} onChange={(value) => set(field.id, { cues: value })} />
                <ChoiceField label="read as" quietLabel={i > 0} value={field.kind} options={KINDS} onChange={(value) => set(field.id, { kind: value as Kind })} />
                <Box pt={i > 0 ? '1' : '6'}>
                  <CheckField label="required" checked={field.required} onChange={(required) => set(field.id, { required })} />
                </Box>
                <Box pt={i > 0 ? '0' : '5'}>
                  <QuietAct aria-expanded={open === field.id} aria-label={`more of field ${field.name}`} onClick={() => setOpen(open === field.id ? null : field.id)}>
                    more
                  </QuietAct>
                </Box>
                <Box pt={i > 0 ? '0' : '5'}>
                  <QuietAct aria-label={`delete field ${field.name}`} onClick={() => setFields(fields.filter((f) => f.id !== field.id))}>
                    delete
                  </QuietAct>
                </Box>
              </Grid>
              {open === field.id && <MoreOf field={field} onChange={(part) => set(field.id, part)} />}
            </Box>
          ))}
          <Flex mb="2">
            <QuietAct onClick={() => setFields([...fields, draftOf()])}>add a field</QuietAct>
          </Flex>
        </>
      )}
    </FormWindow>
  )
}

/** What a field has seldom: bounds, units, defaults. */
function MoreOf({ field, onChange }: { field: Draft; onChange: (part: Partial<Draft>) => void }) {
  return (
    <Grid templateColumns="repeat(3, 1fr)" gap="2" pl="4" pb="2" borderLeftWidth="2px" borderColor="hairline">
      <TextField label="what it is" value={field.description} onChange={(description) => onChange({ description })} />
      <TextField label="only these values" value={field.allowed} help="with commas between" onChange={(allowed) => onChange({ allowed })} />
      {(field.kind === 'quantity' || field.kind === 'money') && (
        <TextField label="unit of a bare number" value={field.unit} mono help={field.kind === 'money' ? 'ISO 4217, such as EUR' : 'UCUM, such as t, m3, {crate}'} onChange={(unit) => onChange({ unit })} />
      )}
      {field.kind === 'code' && <TextField label="pattern of the code" value={field.pattern} mono help="a regular expression" onChange={(pattern) => onChange({ pattern })} />}
      {BOUNDED.has(field.kind) && (
        <>
          <TextField label="at least" value={field.least} onChange={(least) => onChange({ least })} />
          <TextField label="at most" value={field.most} onChange={(most) => onChange({ most })} />
        </>
      )}
      <TextField label="when nothing fills it" value={field.default} onChange={(value) => onChange({ default: value })} />
      <TextField label="or the text’s metadata under" value={field.default_from} onChange={(default_from) => onChange({ default_from })} />
      <Flex direction="column" gap="1" pt="5">
        <CheckField label="takes many values" checked={field.many} onChange={(many) => onChange({ many })} />
        <CheckField label="one span may fill it in several records" checked={field.shared} onChange={(shared) => onChange({ shared })} />
      </Flex>
    </Grid>
  )
}
