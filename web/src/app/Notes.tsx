import { Toast, Toaster } from '@chakra-ui/react'

import { toaster } from '../parts/notes'

/** Lines that tell what happened, above the strip. */
export function Notes() {
  return (
    <Toaster toaster={toaster}>
      {(note) => (
        <Toast.Root>
          <Toast.Description role={note.type === 'error' ? 'alert' : undefined}>{note.description}</Toast.Description>
          {note.action && <Toast.ActionTrigger>{note.action.label}</Toast.ActionTrigger>}
          <Toast.CloseTrigger>close</Toast.CloseTrigger>
        </Toast.Root>
      )}
    </Toaster>
  )
}
