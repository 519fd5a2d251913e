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
  const [made, setMade] = useState<number | null>(null)
  const send = async () => {
    // Whoever mends an address and sends it again means the same import.
    const id = made ?? (await body(api.POST('/api/projects/{project}/imports', { params: { path: { project } } }))).id
    setMade(id)
    const wish = { start: start.trim(), depth: Number(depth), pages: Number(pages), seconds: 600, per_second: 2 }
    await api.POST('/api/projects/{project}/imports/{intake_id}/site', { params: { path: { project, intake_id: id } }, body: wish })
    void client.invalidateQueries({ queryKey: importsQuery(project).queryKey })
    onDone(id)
  }
  return (
    <FormWindow title="Fetch a web site" send="fetch" fields={['start', 'depth', 'pages']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <TextField
            label="address"
            value={start}
            onChange={setStart}
            autoFocus
            help="Only pages of its host are fetched, two in a second, for ten minutes at most, and none that its robots.txt closes."
            error={errorOf('start')}
          />
          <Grid templateColumns="1fr 1fr" columnGap="4">
            <TextField label="links away from it" value={depth} onChange={setDepth} error={errorOf('depth')} />
            <TextField label="pages at most" value={pages} onChange={setPages} error={errorOf('pages')} />
          </Grid>
        </>
      )}
    </FormWindow>
  )
}
