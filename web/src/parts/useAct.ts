import { type QueryKey, useMutation, useQueryClient } from '@tanstack/react-query'
import { useRef } from 'react'
import { useParams } from 'react-router'

import { invalidate } from '../api/live'
import { tellError } from './notes'

interface ActOptions<V, R> {
  /** The place whose figures change with it, or what is to be asked again. */
  changes?: string | QueryKey
  onDone?: (answer: R, value: V) => unknown
}

/**
 * Something that a button or key changes on the server: one at a time, however often it is pressed. A fault is told, and
 * what may have changed is looked at again in either case.
 */
export function useAct<R, V = void>(send: (value: V) => Promise<R>, { changes, onDone }: ActOptions<V, R> = {}) {
  const client = useQueryClient()
  const { project } = useParams()
  // Two presses may come before anything is drawn.
  const sending = useRef(false)
  const { mutate, isPending, variables } = useMutation({
    mutationFn: send,
    onSuccess: (answer, value) => onDone?.(answer, value),
    onError: tellError,
    onSettled: () => {
      sending.current = false
      if (typeof changes !== 'string') return changes && client.invalidateQueries({ queryKey: changes })
      if (project !== undefined) invalidate(client, project, changes)
      return undefined
    },
  })
  const run = (value: V) => {
    if (sending.current) return
    sending.current = true
    mutate(value)
  }
  return { run, busy: isPending, of: isPending ? variables : undefined }
}
