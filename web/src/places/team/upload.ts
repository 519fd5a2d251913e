import { ProblemError, UnreachableError } from '../../api/client'
import type { ProjectShown } from '../../api/schema'

export interface Upload {
  /** The new project; rejects with what is wrong. */
  done: Promise<ProjectShown>
  stop: () => void
}

/** Send a project's file. A plain fetch cannot tell how much of it has been sent. */
export function sendArchive(file: Blob, withMembers: boolean, onProgress: (share: number) => void): Upload {
  const request = new XMLHttpRequest()
  const done = new Promise<ProjectShown>((resolve, reject) => {
    request.open('POST', `/api/archives/import?with_members=${withMembers}`)
    request.setRequestHeader('Content-Type', 'application/zip')
    request.responseType = 'json'
    request.upload.onprogress = ({ loaded, total }) => onProgress(total === 0 ? 0 : loaded / total)
    request.onload = () => {
      if (request.status === 201) resolve(request.response as ProjectShown)
      else reject(new ProblemError(request.status, request.response))
    }
    request.onerror = () => reject(new UnreachableError())
    request.onabort = () => reject(new Error('It was stopped; nothing was kept.'))
    request.send(file)
  })
  return { done, stop: () => request.abort() }
}
