import { Box, Progress } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { useId, useRef, useState } from 'react'
import { useNavigate } from 'react-router'

import { messageOf } from '../../api/client'
import { projectsQuery } from '../../api/project'
import { Act, CheckField, QuietAct } from '../../parts/controls'
import { Window } from '../../parts/Window'
import { percent } from '../../parts/words'
import { type Far, sendArchive, type Upload } from './upload'

/** A project comes back from the file that it was taken out as. */
export function BringBack({ keeper, onClose }: { keeper: boolean; onClose: () => void }) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const id = useId()
  const upload = useRef<Upload | null>(null)
  const [file, setFile] = useState<File | null>(null)
  const [members, setMembers] = useState(true)
  const [far, setFar] = useState<Far | null>(null)
  const [error, setError] = useState('')
  const send = async () => {
    if (!file) return
    setError('')
    setFar({ stage: 'sent', share: 0 })
    try {
      upload.current = sendArchive(file, keeper && members, setFar)
      const { slug } = await upload.current.done
      await client.invalidateQueries({ queryKey: projectsQuery.queryKey })
      await navigate(`/p/${slug}`)
    } catch (fault) {
      setError(messageOf(fault))
      setFar(null)
    }
  }
  const close = () => {
    upload.current?.stop()
    onClose()
  }
  const checked = far?.stage === 'sent' && far.share === 1
  return (
    <Window
      title="Import a project"
      stays
      onClose={close}
      footer={
        <>
          <QuietAct onClick={close}>{far === null ? 'cancel' : 'stop'}</QuietAct>
          <Act onClick={() => void send()} disabled={!file} loading={far !== null}>
            import
          </Act>
        </>
      }
    >
      <Box mb="3" color="second">
        It becomes a project of its own that you lead, beside those that are here. The file is checked whole first; if anything is
        wrong with it nothing is imported.
      </Box>
      <Box asChild fontSize="small" color="second" mb="0.5" display="block">
        <label htmlFor={id}>the project's file</label>
      </Box>
      <Box mb="3">
        <input id={id} type="file" accept=".zip" onChange={(event) => setFile(event.target.files?.[0] ?? null)} />
      </Box>
      {keeper && <CheckField label="people who have an account here are members again" checked={members} onChange={setMembers} />}
      {far !== null && (
        <Progress.Root value={checked ? null : far.share * 100} size="xs" mt="2">
          <Progress.Label fontSize="small">{checked ? 'sent; it is checked' : `${percent(far.share, 1)} ${far.stage}`}</Progress.Label>
          <Progress.Track>
            <Progress.Range bg="action" />
          </Progress.Track>
        </Progress.Root>
      )}
      {error && (
        <Box color="bad" role="alert" mt="2">
          {error}
        </Box>
      )}
    </Window>
  )
}
