import { queryOptions } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import type { ListImportShown } from '../../api/schema'

/** Beside the imports of texts: both are told of by the same events. */
export const listImportQuery = (project: string, list: number, number: number) =>
  queryOptions({
    queryKey: ['p', project, 'imports', 'names', list, number],
    queryFn: () => body(api.GET('/api/projects/{project}/lists/{list_id}/imports/{number}', { params: { path: { project, list_id: list, number } } })),
  })

/** Send a file of names as it is. */
export const sendNames = (project: string, list: number, file: File) =>
  body(
    api.POST('/api/projects/{project}/lists/{list_id}/imports/file', {
      params: { path: { project, list_id: list }, query: { name: file.name } },
      // The document says nothing of the body: it is the file itself.
      bodySerializer: () => file,
      body: {} as never,
      headers: { 'Content-Type': 'application/octet-stream' },
    }),
  )

/** Whether something works on it. */
export const isBusy = ({ work }: ListImportShown) => work !== null && ['waiting', 'running'].includes(work.state)
