import { createToaster } from '@chakra-ui/react'

import { messageOf } from '../api/client'

const SHOWN_MS = 5000

/** Lines that tell what happened, above the strip; errors stay until they are closed. */
export const toaster = createToaster({ placement: 'bottom-end', max: 4, overlap: false, gap: 8, offsets: { bottom: '40px', right: '16px', left: '16px', top: '16px' } })

interface Offer {
  label: string
  onClick: () => void
}

/** The same line is not told twice at a time. */
function add(description: string, type: 'info' | 'error', duration: number, action?: Offer): void {
  toaster.create({ id: `${type} ${description}`, description, type, duration, closable: true, ...(action ? { action } : {}) })
}

/** A line that tells what happened; with an offer it stays for longer. */
export function tell(text: string, offer?: Offer): void {
  add(text, 'info', offer ? 2 * SHOWN_MS : SHOWN_MS, offer)
}

export function tellError(error: unknown): void {
  add(messageOf(error), 'error', Infinity)
}
