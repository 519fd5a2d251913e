import { api, ProblemError, UnreachableError } from '../../api/client'
import type { ProjectShown } from '../../api/schema'

/** How far it is: sent, or once it has been sent, read. */
export interface Far {
  stage: 'sent' | 'read'
  share: number
}

const LOOK_MS = 700

export interface Upload {
  /** The new project; rejects with what is wrong. */
  done: Promise<ProjectShown>
  stop: () => void
}

/** Send a project's file. A plain fetch cannot tell how much of it has been sent. */
export function sendArchive(file: Blob, withMembers: boolean, onProgress: (far: Far) => void): Upload {
  const request = new XMLHttpRequest()
  const arrival = crypto.randomUUID()
  let looking: ReturnType<typeof setInterval> | undefined
  const look = async () => {
    const { data } = await api.GET('/api/archives/import/{arrival}', { params: { path: { arrival } } })
    if (data && data.total > 0 && looking !== undefined) onProgress({ stage: 'read', share: data.done / data.total })
  }
  const done = new Promise<ProjectShown>((resolve, reject) => {
    request.open('POST', `/api/archives/import?with_members=${withMembers}&arrival=${arrival}`)
    request.setRequestHeader('Content-Type', 'application/zip')
    request.responseType = 'json'
    request.upload.onprogress = ({ loaded, total }) => onProgress({ stage: 'sent', share: total === 0 ? 0 : loaded / total })
    request.upload.onload = () => {
      // A look that fails says nothing of the archive: the answer to the request itself will.
      looking = setInterval(() => void look().catch(() => undefined), LOOK_MS)
    }
    request.onloadend = () => {
      clearInterval(looking)
      looking = undefined
    }
    request.onload = () => {
      if (request.status === 201) resolve(request.response as ProjectShown)
      else reject(new ProblemError(request.status, request.response))
    }
    request.onerror = () => reject(new UnreachableError())
    request.onabort = () => reject(new Error('It was stopped; nothing was saved.'))
    request.send(file)
  })
  return { done, stop: () => request.abort() }
}
