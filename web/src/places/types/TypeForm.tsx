import { Box, Flex, Grid } from '@chakra-ui/react'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { TypeShown, TypeWish } from '../../api/schema'
import { ChoiceField, linesOf, TextField } from '../../parts/controls'
import { hueToken } from '../../parts/signs'
import { FormWindow } from '../../parts/Window'
import { HUES } from '../../theme/system'

interface TypeFormProps {
  types: readonly TypeShown[]
  type?: TypeShown
  onClose: () => void
  onDone: (type: TypeShown) => void
}

const FRESH: TypeWish = { code: '', name: '', key: '', hue: 0, definition: '', counts: [], counts_not: [], rulings: [], parent: null, value_kind: 'none' }

/** How values of a type are brought into one form. */
export const VALUE_KINDS: readonly { value: TypeWish['value_kind']; label: string }[] = [
  { value: 'none', label: 'as they are written' },
  { value: 'name', label: 'names' },
  { value: 'date', label: 'dates' },
  { value: 'time', label: 'times' },
  { value: 'number', label: 'numbers' },
  { value: 'quantity', label: 'quantities with a unit' },
  { value: 'money', label: 'amounts of money' },
  { value: 'code', label: 'codes' },
]

/** The hue that is farthest from those in use. */
export function freeHue(used: readonly number[]): number {
  const distance = (a: number, b: number) => Math.min(Math.abs(a - b), HUES - Math.abs(a - b))
  const nearest = (hue: number) => Math.min(HUES, ...used.map((other) => distance(hue, other)))
  const all = Array.from({ length: HUES }, (_, hue) => hue)
  return all.reduce((best, hue) => (nearest(hue) > nearest(best) ? hue : best), 0)
}

/** The first free letter of a name, else of the alphabet. */
export function freeKey(name: string, used: readonly string[]): string {
  return Array.from(`${name.toLowerCase()}abcdefghijklmnopqrstuvwxyz0123456789`).find((k) => /[a-z0-9]/.test(k) && !used.includes(k)) ?? ''
}

export function TypeForm({ types, type, onClose, onDone }: TypeFormProps) {
  const project = useProject()
  const others = types.filter((t) => t.id !== type?.id)
  const [wish, setWish] = useState<TypeWish>(
    type ? { ...type, value_kind: type.value_kind as TypeWish['value_kind'] } : { ...FRESH, hue: freeHue(others.map((t) => t.hue)) },
  )
  const [counts, setCounts] = useState((type?.counts ?? []).join('\n'))
  const [countsNot, setCountsNot] = useState((type?.counts_not ?? []).join('\n'))
  const [rulings, setRulings] = useState((type?.rulings ?? []).join('\n'))
  const set = (part: Partial<TypeWish>) => setWish({ ...wish, ...part })
  const send = async (over?: number) => {
    const { code, name, hue, definition, value_kind, parent } = wish
    const key = wish.key || freeKey(name, others.map((t) => t.key))
    const guidelines = { definition, counts: linesOf(counts), counts_not: linesOf(countsNot), rulings: linesOf(rulings) }
    const send: TypeWish = { code, name, key, hue, value_kind, parent: parent ?? null, ...guidelines }
    const path = { project }
    const made = type
      ? await body(api.PUT('/api/projects/{project}/types/{type_id}', { params: { path: { ...path, type_id: type.id } }, body: { ...send, version: over ?? type.version } }))
      : await body(api.POST('/api/projects/{project}/types', { params: { path }, body: send }))
    onDone(made)
  }
  return (
    <FormWindow
      title={type ? `Edit ${type.code}` : 'New entity type'}
      send={type ? 'save' : 'add'}
      fields={['code', 'name', 'key', 'hue', 'parent', 'value_kind']}
      onClose={onClose}
      onSend={send}
    >
      {(errorOf) => (
        <>
          <Grid templateColumns="1fr 2fr 1fr" gap="3">
            <TextField label="code" value={wish.code} mono autoFocus help="2 to 4 capitals" error={errorOf('code')} onChange={(code) => set({ code: code.toUpperCase() })} />
            <TextField label="name" value={wish.name} error={errorOf('name')} onChange={(name) => set({ name })} />
            <TextField label="key" value={wish.key} mono help="empty: a free one, while there is any" error={errorOf('key')} onChange={(key) => set({ key: key.toLowerCase() })} />
          </Grid>
          <HuePick hue={wish.hue} code={wish.code} used={others} onPick={(hue) => set({ hue })} />
          <Grid templateColumns="1fr 1fr" gap="3">
            <ChoiceField
              label="a kind of"
              value={String(wish.parent ?? '')}
              options={[{ value: '', label: 'nothing else' }, ...others.map((t) => ({ value: String(t.id), label: `${t.code} ${t.name}` }))]}
              error={errorOf('parent')}
              onChange={(parent) => set({ parent: parent === '' ? null : Number(parent) })}
            />
            <ChoiceField
              label="its values are"
              value={wish.value_kind}
              options={VALUE_KINDS}
              error={errorOf('value_kind')}
              onChange={(kind) => set({ value_kind: kind as TypeWish['value_kind'] })}
            />
          </Grid>
          <TextField label="definition" value={wish.definition} lines={3} onChange={(definition) => set({ definition })} />
          <Grid templateColumns="1fr 1fr" gap="3">
            <TextField label="counts, one example a line" value={counts} lines={5} onChange={setCounts} />
            <TextField label="does not count, one a line" value={countsNot} lines={5} onChange={setCountsNot} />
          </Grid>
          <TextField label="rulings on hard cases, one a line" value={rulings} lines={3} onChange={setRulings} />
        </>
      )}
    </FormWindow>
  )
}

function HuePick({ hue, code, used, onPick }: { hue: number; code: string; used: readonly TypeShown[]; onPick: (hue: number) => void }) {
  return (
    <Box as="fieldset" mb="2.5">
      <Box as="legend" fontSize="small" color="second" mb="0.5">
        hue
      </Box>
      <Flex gap="0.5" wrap="wrap">
        {Array.from({ length: HUES }, (_, i) => {
          const holder = used.find((t) => t.hue === i)
          return (
            <Box
              as="button"
              key={i}
              {...{ type: 'button' }}
              aria-pressed={hue === i}
              aria-label={`hue ${i}${holder ? `, used by ${holder.code}` : ''}`}
              title={holder ? `used by ${holder.code}` : undefined}
              w="9"
              h="5"
              fontSize="tiny"
              fontWeight="bold"
              color="knockout"
              bg={hueToken(i)}
              outline={hue === i ? '2px solid' : undefined}
              outlineColor="ink"
              outlineOffset="1px"
              cursor="pointer"
              onClick={() => onPick(i)}
            >
              {hue === i ? code || '·' : (holder?.code ?? '')}
            </Box>
          )
        })}
      </Flex>
    </Box>
  )
}
