import { Flex } from '@chakra-ui/react'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { ListShown, OptionsShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { CheckField, ChoiceField, TextField } from '../../parts/controls'
import { Fold } from '../../parts/Fold'
import { FormWindow } from '../../parts/Window'
import { AS_EVER, asPhrases, CASES } from './options'

const FIELDS = ['name', 'type', 'exact_below', 'shortest', 'near', 'within', 'not_after', 'not_before'] as const

const asCount = (text: string) => Number.parseInt(text, 10) || 0

/** What a list is called, the type of its names, and how they are looked for. */
export function ListForm({ list, onClose, onDone }: { list?: ListShown; onClose: () => void; onDone: (list: ListShown) => void }) {
  const project = useProject()
  const { types } = useScheme()
  const [name, setName] = useState(list?.name ?? '')
  const [chosen, setChosen] = useState(list?.type ?? '')
  const [on, setOn] = useState(list?.on ?? true)
  const [options, setOptions] = useState<OptionsShown>(list?.options ?? AS_EVER)
  const [phrases, setPhrases] = useState(() => ({ near: options.near.join('; '), not_after: options.not_after.join('; '), not_before: options.not_before.join('; ') }))
  const type = chosen || (types[0]?.code ?? '')
  const set = (more: Partial<OptionsShown>) => setOptions({ ...options, ...more })
  const send = async (over?: number) => {
    const wish = { name, type, on, options: { ...options, near: asPhrases(phrases.near), not_after: asPhrases(phrases.not_after), not_before: asPhrases(phrases.not_before) } }
    const path = { project }
    const made = list
      ? await body(api.PUT('/api/projects/{project}/lists/{list_id}', { params: { path: { ...path, list_id: list.id } }, body: { ...wish, version: over ?? list.version } }))
      : await body(api.POST('/api/projects/{project}/lists', { params: { path }, body: wish }))
    onDone(made)
  }
  return (
    <FormWindow title={list ? `Edit “${list.name}”` : 'New list'} send={list ? 'save' : 'add'} fields={FIELDS} onClose={onClose} onSend={send}>
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
          <ChoiceField label="capitals" value={options.case} options={CASES} onChange={(value) => set({ case: value as OptionsShown['case'] })} />
          <Fold title="other ways to write a name" open={options.hyphens || options.endings || options.slips || !options.accents}>
            <Flex direction="column" gap="2" align="flex-start">
              <CheckField label="accents count" checked={options.accents && !options.slips} disabled={options.slips} onChange={(accents) => set({ accents })} />
              <CheckField label="a hyphen is as good as a space" checked={options.hyphens} onChange={(hyphens) => set({ hyphens })} />
              <CheckField label="plurals and possessives too" checked={options.endings} onChange={(endings) => set({ endings })} />
              <CheckField label="one typing slip in a word of six letters or more" title="A letter too many, too few, another one, or two in the wrong order. Accents do not count then." checked={options.slips} onChange={(slips) => set({ slips })} />
            </Flex>
          </Fold>
          <Fold title="short names" open={options.exact_below > 0 || options.shortest > 0}>
            <TextField label="letter by letter below so many letters" type="number" value={String(options.exact_below)} error={errorOf('exact_below')} onChange={(text) => set({ exact_below: asCount(text) })} />
            <TextField label="not at all below so many letters" type="number" value={String(options.shortest)} error={errorOf('shortest')} onChange={(text) => set({ shortest: asCount(text) })} />
          </Fold>
          <Fold title="words around it" open={options.near.length + options.not_after.length + options.not_before.length > 0}>
            <TextField label="only near one of" value={phrases.near} help="Words or phrases with semicolons between, in any case." error={errorOf('near')} onChange={(near) => setPhrases({ ...phrases, near })} />
            <TextField label="within so many tokens" type="number" value={String(options.within)} error={errorOf('within')} onChange={(text) => set({ within: asCount(text) })} />
            <TextField label="not right after" value={phrases.not_after} error={errorOf('not_after')} onChange={(not_after) => setPhrases({ ...phrases, not_after })} />
            <TextField label="not right before" value={phrases.not_before} error={errorOf('not_before')} onChange={(not_before) => setPhrases({ ...phrases, not_before })} />
          </Fold>
        </>
      )}
    </FormWindow>
  )
}
