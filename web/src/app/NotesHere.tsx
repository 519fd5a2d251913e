import { useEffect, useState } from 'react'

import { later } from '../parts/later'
import { toaster } from '../parts/notes'

const Shown = later(async () => (await import('./Notes')).Notes)

/** Where notes are shown, from the first one on. */
export function Notes() {
  const [some, setSome] = useState(() => toaster.getCount() > 0)
  useEffect(() => toaster.subscribe(() => setSome(true)), [])
  return some ? <Shown /> : null
}
