import { useState } from 'react'

import { TextField } from '../../parts/controls'

interface LateFieldProps {
  label: string
  value: string
  onChange: (value: string) => void
  help?: string
}

/** A field that counts when one leaves it or presses enter: each change has all files looked into again. */
export function LateField({ label, value, onChange, help }: LateFieldProps) {
  const [typed, setTyped] = useState(value)
  const [from, setFrom] = useState(value)
  // Another plan was taken meanwhile.
  if (from !== value) {
    setFrom(value)
    setTyped(value)
  }
  const keep = () => {
    if (typed.trim() !== value) onChange(typed.trim())
  }
  return (
    <form
      onBlur={keep}
      onSubmit={(event) => {
        event.preventDefault()
        keep()
      }}
    >
      <TextField label={label} value={typed} help={help} onChange={setTyped} />
    </form>
  )
}
