import { ProblemError, UnreachableError } from '../../api/client'

/** A file with the name that it goes by: with its folders, where a folder was chosen. */
export interface Sent {
  name: string
  file: File
}

/** Files as somebody chose them. What begins with a dot was put there by a program. */
export function chosen(files: Iterable<File>): Sent[] {
  return [...files]
    .map((file) => ({ name: file.webkitRelativePath || file.name, file }))
    .filter(({ name }) => !name.split('/').some((part) => part.startsWith('.')))
    .sort((a, b) => (a.name < b.name ? -1 : 1))
}

/** Files as somebody dropped them, with all that lies in folders. */
export async function dropped(items: DataTransferItemList): Promise<Sent[]> {
  // Entries are there only until the drop has been dealt with: they are all taken before anything is waited for.
  const entries = [...items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null)
  const found = await Promise.all(entries.map((entry) => within(entry)))
  return found
    .flat()
    .filter(({ name }) => !name.split('/').some((part) => part.startsWith('.')))
    .sort((a, b) => (a.name < b.name ? -1 : 1))
}

async function within(entry: FileSystemEntry): Promise<Sent[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => {
      ;(entry as FileSystemFileEntry).file(resolve, reject)
    })
    return [{ name: entry.fullPath.replace(/^\//, ''), file }]
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  const found: Sent[] = []
  // A folder is told in portions, until an empty one.
  for (;;) {
    const portion = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (portion.length === 0) return found
    found.push(...(await Promise.all(portion.map((inner) => within(inner)))).flat())
  }
}

/** Send one file; `tell` hears how many of its bytes have gone. A plain fetch cannot say that. */
export function send(project: string, id: number, { name, file }: Sent, tell: (bytes: number) => void, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', `/api/projects/${encodeURIComponent(project)}/imports/${id}/file?name=${encodeURIComponent(name)}`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.responseType = 'json'
    request.upload.onprogress = ({ loaded }) => tell(loaded)
    request.onload = () => (request.status === 201 ? resolve() : reject(new ProblemError(request.status, request.response)))
    request.onerror = () => reject(new UnreachableError())
    request.onabort = () => reject(new Error('Sending was stopped.'))
    signal.addEventListener('abort', () => request.abort())
    request.send(file)
  })
}
