import { Box } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import { LinkAct, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { plural } from '../../parts/words'
import { retrainingQuery } from './queries'

/** After how many signings the tagger is trained anew by itself. */
export function Retraining({ lead }: { lead: boolean }) {
  const project = useProject()
  const anew = useQuery(retrainingQuery(project)).data
  const [open, setOpen] = useState(false)
  if (!anew) return null
  return (
    <Box px="3" py="2" fontSize="small" color="second" borderTopWidth="1px" borderColor="hairline">
      {anew.after === 0
        ? 'Automatic retraining is off.'
        : `Trained anew after every ${plural(anew.after, 'signing')}, as the tagger in use was.`}{' '}
      {plural(anew.signings, 'signing')} in train and dev since the newest training.{' '}
      {lead && <LinkAct onClick={() => setOpen(true)}>edit</LinkAct>}
      {open && <Change after={anew.after} onClose={() => setOpen(false)} />}
    </Box>
  )
}

function Change({ after, onClose }: { after: number; onClose: () => void }) {
  const project = useProject()
  const client = useQueryClient()
  const [count, setCount] = useState(String(after))
  const send = async () => {
    await api.PUT('/api/projects/{project}/trainings/anew', { params: { path: { project } }, body: { after: Number(count) } })
    invalidate(client, project, 'tagger')
  }
  return (
    <FormWindow title="Automatic retraining" send="save" fields={['after']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <TextField
          label="after how many signings"
          type="number"
          value={count}
          onChange={setCount}
          autoFocus
          error={errorOf('after')}
          help="0 for never. It runs in the background with the settings of the tagger in use, and its tagger is put to use when it is done. Of trainings begun so the newest three are kept."
        />
      )}
    </FormWindow>
  )
}
