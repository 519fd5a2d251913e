import { Box, Grid } from '@chakra-ui/react'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { ChangeTextsWish, SomeTexts, TextActShown } from '../../api/schema'
import { CheckField, ChoiceField, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { plural } from '../../parts/words'
import { SPLITS } from './TextForm'

interface ChangeWindowProps {
  count: number
  some: SomeTexts
  onClose: () => void
  onDone: (act: TextActShown) => void
}

const AS_IS = ''

/** What becomes of many texts at once; what is left alone stays as it is. */
export function ChangeWindow({ count, some, onClose, onDone }: ChangeWindowProps) {
  const project = useProject()
  const [split, setSplit] = useState(AS_IS)
  const [changesGroup, setChangesGroup] = useState(false)
  const [group, setGroup] = useState('')
  const [changesDate, setChangesDate] = useState(false)
  const [dated, setDated] = useState('')
  const [name, setName] = useState('')
  const [value, setValue] = useState('')
  const send = async () => {
    const wish: ChangeTextsWish = {
      ...some,
      split: split === AS_IS ? null : split,
      group: changesGroup ? group : null,
      dated: changesDate && dated !== '' ? dated : null,
      undated: changesDate && dated === '',
      meta: name.trim() === '' ? {} : { [name.trim()]: value === '' ? null : value },
    }
    onDone(await body(api.POST('/api/projects/{project}/texts/changes', { params: { path: { project } }, body: wish })))
  }
  return (
    <FormWindow title={`Change ${plural(count, 'text')}`} send="save" fields={['split', 'meta', 'group']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <Box color="second" mb="3">
            Titles and bodies stay as they are. The change can be undone.
          </Box>
          <ChoiceField label="split" value={split} options={[{ value: AS_IS, label: 'leave as it is' }, ...SPLITS]} error={errorOf('split')} onChange={setSplit} />
          <Grid templateColumns="1fr 1fr" gap="3" mb="3">
            <div>
              <CheckField label="another group" checked={changesGroup} onChange={setChangesGroup} />
              {changesGroup && <TextField label="group" value={group} help="empty for none" error={errorOf('group')} onChange={setGroup} />}
            </div>
            <div>
              <CheckField label="another date" checked={changesDate} onChange={setChangesDate} />
              {changesDate && <TextField label="date" type="date" value={dated} help="empty for none" onChange={setDated} />}
            </div>
          </Grid>
          <Grid templateColumns="1fr 1fr" gap="3">
            <TextField label="name of metadata" value={name} help="Desk, author, …; empty to leave them" error={errorOf('meta')} onChange={setName} />
            {name.trim() !== '' && <TextField label="value" value={value} help="empty takes it away" onChange={setValue} />}
          </Grid>
        </>
      )}
    </FormWindow>
  )
}
