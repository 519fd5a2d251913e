import { Box, Dialog, Flex, Portal } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { type SubmitEvent, type ReactNode, useState } from 'react'

import { ProblemError, messageOf } from '../api/client'
import { BothVersions, staleOf, versionOf } from './BothVersions'
import { Act, BadAct, QuietAct } from './controls'
import { workElement } from './focus'
import { useKeys } from './keys'
import { Unsaved } from './Unsaved'

interface WindowProps {
  title: string
  /** Without it the window stays until one of its acts is chosen. */
  onClose?: () => void
  children: ReactNode
  footer?: ReactNode
  wide?: boolean
  /** A click beside it does not close it: what was typed or chosen in it would be lost. */
  stays?: boolean
  /** Nothing in it takes the focus: its text does, so that it can be scrolled by keys. */
  reads?: boolean
}

function Hush() {
  // While a window is open the keys of the page below are asleep.
  useKeys([], 1)
  return null
}

/** A window over the page; Escape closes it, and the focus goes back to what is worked on, or to what had it. */
export function Window({ title, onClose, children, footer, wide = false, stays = false, reads = false }: WindowProps) {
  // One that was opened from another gives the focus back to that one.
  const [isInner] = useState(() => document.querySelector('[role=dialog]') !== null)
  return (
    <Dialog.Root
      open
      onOpenChange={(e) => !e.open && onClose?.()}
      closeOnEscape={onClose !== undefined}
      closeOnInteractOutside={onClose !== undefined && !stays}
      finalFocusEl={() => (isInner ? null : workElement())}
      size={wide ? 'xl' : 'md'}
    >
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content>
            <Hush />
            <Dialog.Header>
              <Dialog.Title>{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body tabIndex={reads ? 0 : undefined}>{children}</Dialog.Body>
            {footer && <Dialog.Footer>{footer}</Dialog.Footer>}
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  )
}

interface FormWindowProps {
  title: string
  onClose: () => void
  /** Throws when the server refuses; the form stays with all that was typed. `over` is the version to save over, once both were seen. */
  onSend: (over?: number) => Promise<unknown>
  send: string
  children: (errorOf: (field: string) => string | undefined) => ReactNode
  /** Fields shown in the form: errors about others stand below all. */
  fields: readonly string[]
  wide?: boolean
  /** Another window takes its place when it has sent. */
  stays?: boolean
}

/** A window with a form: sends, shows each error at its field, closes when it is done. */
export function FormWindow({ title, onClose, onSend, send, children, fields, wide = false, stays = false }: FormWindowProps) {
  const { mutate, error, isPending } = useMutation({ mutationFn: onSend, onSuccess: () => (stays ? undefined : onClose()) })
  const [dirty, setDirty] = useState(false)
  const [leaving, setLeaving] = useState(false)
  const field = error instanceof ProblemError ? error.field : undefined
  const placed = field !== undefined && fields.includes(field)
  const stale = staleOf(error)
  const submit = (event: SubmitEvent) => {
    event.preventDefault()
    // Enter may come again before the button is seen to be busy.
    if (!isPending) mutate(undefined)
  }
  return (
    <Window title={title} onClose={() => (dirty ? setLeaving(true) : onClose())} wide={wide} stays>
      <form onSubmit={submit} onChange={() => setDirty(true)} noValidate>
        {stale && <BothVersions stale={stale} onMine={() => mutate(versionOf(stale))} onTheirs={onClose} />}
        {children((name) => (placed && field === name ? messageOf(error) : undefined))}
        {error !== null && !placed && !stale && (
          <Box color="bad" role="alert" mb="2">
            {messageOf(error)}
          </Box>
        )}
        {leaving ? (
          <Unsaved onDiscard={onClose} onGoOn={() => setLeaving(false)} />
        ) : (
          <Flex justify="flex-end" gap="2" pb="3" pt="2" position="sticky" bottom="-2" bg="paper">
            <QuietAct onClick={onClose}>cancel</QuietAct>
            <Act type="submit" loading={isPending}>
              {send}
            </Act>
          </Flex>
        )}
      </form>
    </Window>
  )
}

interface SureProps {
  title: string
  children: ReactNode
  act: string
  onClose: () => void
  onSure: () => Promise<unknown>
}

/** Before something is destroyed: names exactly what. */
export function Sure({ title, children, act, onClose, onSure }: SureProps) {
  const { mutate, error, isPending, isSuccess } = useMutation({ mutationFn: onSure, onSuccess: onClose })
  return (
    <Window
      title={title}
      onClose={onClose}
      footer={
        <>
          <QuietAct onClick={onClose}>cancel</QuietAct>
          <BadAct loading={isPending || isSuccess} onClick={() => mutate()}>
            {act}
          </BadAct>
        </>
      }
    >
      {children}
      {error !== null && (
        <Box color="bad" role="alert" mt="2">
          {messageOf(error)}
        </Box>
      )}
    </Window>
  )
}
