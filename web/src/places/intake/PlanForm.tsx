import { Box, Flex, Grid } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { useProject } from '../../api/project'
import type { LookedShown } from '../../api/schema'
import { BadAct, CheckField, ChoiceField, QuietAct, TextField } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { tell } from '../../parts/notes'
import { useAct } from '../../parts/useAct'
import { FormWindow } from '../../parts/Window'
import { LateField } from './LateField'
import { KINDS, type Plan, SEPARATORS, settingsFor } from './plan'
import { plansQuery } from './queries'

const SPLITS = ['none', 'train', 'dev', 'test'].map((value) => ({ value, label: value }))
const GROUPS = [
  { value: '', label: 'as the source says' },
  { value: 'file', label: 'texts of one file' },
  { value: 'folder', label: 'texts of one folder' },
]
const AS = [{ value: '', label: 'what it is found to be' }, ...Object.entries(KINDS).flatMap(([value, label]) => (value === 'corpus' ? [] : [{ value, label }]))]
const DELIMITERS = [{ value: '', label: 'found out' }, ...Object.entries(SEPARATORS).map(([value, label]) => ({ value, label }))]
const QUOTED = [
  { value: 'kept', label: 'kept, not annotated' },
  { value: 'annotated', label: 'kept and annotated' },
  { value: 'left out', label: 'left out' },
]
const OTHERS = ['utf-8', 'utf-16', 'cp1252', 'cp1250', 'cp1251', 'iso-8859-2', 'iso-8859-15', 'koi8-r', 'cp850', 'shift_jis', 'gb18030']

interface PlanFormProps {
  plan: Plan
  looked: LookedShown
  onChange: (plan: Plan) => void
}

/** How the files are read; only what says anything about these files. */
export function PlanForm({ plan, looked, onChange }: PlanFormProps) {
  const { per, page, mail, table, encoding } = settingsFor(looked)
  const set = (change: Partial<Plan>) => onChange({ ...plan, ...change })
  const guessed = looked.files.find((file) => file.guessed)
  const readings = guessed?.readings ?? []
  const encodings = [
    { value: '', label: 'found out' },
    ...(readings.length > 0 ? readings.map(({ encoding: value, words }) => ({ value, label: `${value}: ${words}` })) : OTHERS.map((value) => ({ value, label: value }))),
  ]
  const portions = [
    { value: 'file', label: 'file' },
    ...(looked.kinds['txt'] || looked.kinds['md'] ? [{ value: 'paragraph', label: 'paragraph' }, { value: 'line', label: 'line' }] : []),
    ...(looked.kinds['pdf'] ? [{ value: 'page', label: 'page' }] : []),
  ]
  return (
    <Box as="section" mb="4">
      <Heading side={<Plans plan={plan} onChange={onChange} />}>How it is read</Heading>
      <Grid templateColumns="repeat(auto-fill, minmax(var(--chakra-sizes-48), 1fr))" columnGap="4" rowGap="1" alignItems="start">
        <ChoiceField label="read as" value={plan.kind} options={AS} onChange={(value) => set({ kind: value })} />
        {per && <ChoiceField label="one text for each" value={plan.per} options={portions} onChange={(value) => set({ per: value })} />}
        {encoding && (
          <ChoiceField
            label="encoding"
            value={plan.encoding}
            options={encodings}
            help={guessed ? `guessed as ${guessed.encoding}: look at the sample` : undefined}
            onChange={(value) => set({ encoding: value })}
          />
        )}
        <ChoiceField label="split" value={plan.split} options={SPLITS} help="where the source says none" onChange={(value) => set({ split: value })} />
        <ChoiceField label="group" value={plan.group_by} options={GROUPS} help="texts that belong together" onChange={(value) => set({ group_by: value })} />
        <LateField label="name of the group" value={plan.group} help="for texts that have none otherwise" onChange={(value) => set({ group: value })} />
        {looked.kinds['csv'] && (
          <ChoiceField label="between values" value={plan.delimiter} options={DELIMITERS} onChange={(value) => set({ delimiter: value })} />
        )}
        {table && (
          <ChoiceField
            label="3/4/2026 is"
            value={plan.day_first ? 'day' : 'month'}
            options={[{ value: 'day', label: '3 April' }, { value: 'month', label: '4 March' }]}
            onChange={(value) => set({ day_first: value === 'day' })}
          />
        )}
        {mail && (
          <ChoiceField
            label="quoted words and signatures"
            value={plan.without_quoted ? 'left out' : plan.annotate_quoted ? 'annotated' : 'kept'}
            options={QUOTED}
            onChange={(value) => set({ without_quoted: value === 'left out', annotate_quoted: value === 'annotated' })}
          />
        )}
        {looked.near > 0 && (
          <ChoiceField
            label="nearly the same as another"
            value={plan.near}
            options={[{ value: 'keep', label: 'imported all the same' }, { value: 'leave out', label: 'left out' }]}
            onChange={(value) => set({ near: value })}
          />
        )}
      </Grid>
      <Flex gap="5" wrap="wrap">
        {page && <CheckField label="all that a page shows, menus too" checked={plan.whole_page} onChange={(on) => set({ whole_page: on })} />}
        {table && (looked.kinds['csv'] || looked.kinds['xlsx']) && (
          <CheckField
            label="the first row names the columns"
            checked={plan.header ?? looked.files.some((file) => file.header)}
            onChange={(on) => set({ header: on })}
          />
        )}
      </Flex>
    </Box>
  )
}

/** Plans that are kept under names. */
function Plans({ plan, onChange }: { plan: Plan; onChange: (plan: Plan) => void }) {
  const project = useProject()
  const saved = useQuery(plansQuery(project)).data ?? []
  const [saving, setSaving] = useState(false)
  const held = saved.find((one) => JSON.stringify(one.plan) === JSON.stringify(plan))
  const remove = useAct((id: number) => api.DELETE('/api/projects/{project}/imports/plans/{plan_id}', { params: { path: { project, plan_id: id } } }), {
    changes: plansQuery(project).queryKey,
  })
  return (
    <Flex gap="2" align="center">
      {saved.length > 0 && (
        <Box minW="40">
          <ChoiceField
            label="plan"
            quietLabel
            value={held ? String(held.id) : ''}
            options={[{ value: '', label: 'use a saved plan' }, ...saved.map(({ id, name }) => ({ value: String(id), label: name }))]}
            onChange={(value) => {
              const one = saved.find(({ id }) => String(id) === value)
              if (one) onChange(one.plan)
            }}
          />
        </Box>
      )}
      {held ? <BadAct onClick={() => remove.run(held.id)}>delete “{held.name}”</BadAct> : <QuietAct onClick={() => setSaving(true)}>save this plan</QuietAct>}
      {saving && <SavePlan plan={plan} onClose={() => setSaving(false)} />}
    </Flex>
  )
}

function SavePlan({ plan, onClose }: { plan: Plan; onClose: () => void }) {
  const project = useProject()
  const client = useQueryClient()
  const [name, setName] = useState('')
  const send = async () => {
    await api.PUT('/api/projects/{project}/imports/plans', { params: { path: { project } }, body: { name, plan } })
    await client.invalidateQueries({ queryKey: plansQuery(project).queryKey })
    tell(`The plan is kept as “${name.trim()}”.`)
  }
  return (
    <FormWindow title="Save this plan" send="save" fields={['name']} onClose={onClose} onSend={send}>
      {(errorOf) => <TextField label="name" value={name} onChange={setName} help="one that has this name is replaced" error={errorOf('name')} autoFocus />}
    </FormWindow>
  )
}
