import { Grid } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import { TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { importsQuery } from './queries'

/** Pages of a web site as the files of a new import. */
export function SiteWindow({ onClose, onDone }: { onClose: () => void; onDone: (id: number) => void }) {
  const project = useProject()
  const client = useQueryClient()
  const [start, setStart] = useState('')
  const [depth, setDepth] = useState('3')
  const [pages, setPages] = useState('200')
  const [minutes, setMinutes] = useState('10')
  const [rate, setRate] = useState('2')
  const [made, setMade] = useState<number | null>(null)
  const send = async () => {
    // Whoever mends an address and sends it again means the same import.
    const id = made ?? (await body(api.POST('/api/projects/{project}/imports', { params: { path: { project } } }))).id
    setMade(id)
    const wish = { start: start.trim(), depth: Number(depth), pages: Number(pages), seconds: 60 * Number(minutes), per_second: Number(rate) }
    await api.POST('/api/projects/{project}/imports/{intake_id}/site', { params: { path: { project, intake_id: id } }, body: wish })
    void client.invalidateQueries({ queryKey: importsQuery(project).queryKey })
    onDone(id)
  }
  return (
    <FormWindow title="Fetch a web site" send="fetch" fields={['start', 'depth', 'pages', 'per_second', 'seconds']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <TextField
            label="address"
            value={start}
            onChange={setStart}
            autoFocus
            help="Only pages of its host are fetched, and none that its robots.txt closes; nor are they faster than it asks."
            error={errorOf('start')}
          />
          <Grid templateColumns="1fr 1fr" columnGap="4">
            <TextField label="links away from it" value={depth} onChange={setDepth} error={errorOf('depth')} />
            <TextField label="pages at most" value={pages} onChange={setPages} error={errorOf('pages')} />
            <TextField label="pages in a second" value={rate} onChange={setRate} error={errorOf('per_second')} />
            <TextField label="minutes at most" value={minutes} onChange={setMinutes} error={errorOf('seconds')} />
          </Grid>
        </>
      )}
    </FormWindow>
  )
}
