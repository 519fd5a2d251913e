import { useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'

import { api } from '../../api/client'
import { tellError } from '../../parts/notes'
import { importQuery, importsQuery } from './queries'
import { type Sent, send } from './sending'

/** How far the sending of files is. */
export interface Far {
  files: number
  of: number
  bytes: number
  whole: number
}

/** Sends files into an import one after the other, and has them looked into when all are there. */
export function useSending(project: string) {
  const client = useQueryClient()
  const [far, setFar] = useState<Far | null>(null)
  const stopping = useRef<AbortController | null>(null)
  const run = async (id: number, files: readonly Sent[]) => {
    if (files.length === 0 || stopping.current) return
    const stop = (stopping.current = new AbortController())
    const whole = files.reduce((sum, { file }) => sum + file.size, 0)
    let bytes = 0
    try {
      for (const [at, one] of files.entries()) {
        const tell = (sent: number) => setFar({ files: at, of: files.length, bytes: bytes + sent, whole })
        tell(0)
        await send(project, id, one, tell, stop.signal)
        bytes += one.file.size
      }
      await api.POST('/api/projects/{project}/imports/{intake_id}/look', { params: { path: { project, intake_id: id } } })
    } catch (fault) {
      tellError(fault)
    } finally {
      stopping.current = null
      setFar(null)
      void client.invalidateQueries({ queryKey: importQuery(project, id).queryKey })
      void client.invalidateQueries({ queryKey: importsQuery(project).queryKey })
    }
  }
  return { far, run, stop: () => stopping.current?.abort() }
}
