import { Box, Flex } from '@chakra-ui/react'
import { useState } from 'react'

import { Act, ChoiceField, QuietAct, TextField } from '../../parts/controls'

interface ShareFieldProps {
  label: string
  value: number
  onChange: (value: number) => void
  help?: string
}

/** A number from 0 to 1; what is none yet stays as it is typed and changes nothing. */
export function ShareField({ label, value, onChange, help }: ShareFieldProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const shown = typed ?? String(value)
  const put = (text: string) => {
    const made = Number(text.replace(',', '.'))
    const fits = text.trim() !== '' && made >= 0 && made <= 1
    setTyped(fits && String(made) === text ? null : text)
    if (fits) onChange(made)
  }
  const wrong = typed !== null && !(typed.trim() !== '' && Number(typed.replace(',', '.')) >= 0 && Number(typed.replace(',', '.')) <= 1)
  return <TextField label={label} value={shown} onChange={put} help={help} error={wrong ? 'A number from 0 to 1.' : undefined} />
}

interface TypeMapProps {
  label: string
  help?: string
  /** What can be chosen on the left; null where anything can be typed. */
  from: readonly string[] | null
  to: readonly string[]
  value: Readonly<Record<string, string>>
  onChange: (value: Record<string, string>) => void
}

/** Pairs of types: what one is, or becomes. */
export function TypeMap({ label, help, from, to, value, onChange }: TypeMapProps) {
  const free = from?.filter((code) => !(code in value)) ?? []
  const [left, setLeft] = useState('')
  const [right, setRight] = useState('')
  const chosen = from ? (free.includes(left) ? left : (free[0] ?? '')) : left.trim()
  const becomes = right || (to[0] ?? '')
  const add = () => {
    if (chosen === '' || becomes === '') return
    onChange({ ...value, [chosen]: becomes })
    setLeft('')
  }
  return (
    <Box role="group" aria-label={label}>
      <Box fontWeight="bold" mb="1">
        {label}
      </Box>
      {help && (
        <Box fontSize="small" color="second" mb="1">
          {help}
        </Box>
      )}
      {Object.entries(value).map(([one, other]) => (
        <Flex key={one} gap="2" align="center" fontFamily="mono">
          {one} → {other}
          <QuietAct aria-label={`remove ${one} → ${other}`} onClick={() => onChange(Object.fromEntries(Object.entries(value).filter(([key]) => key !== one)))}>
            remove
          </QuietAct>
        </Flex>
      ))}
      <Flex gap="2" align="flex-end">
        <Box flex="1">{from ? <ChoiceField label="type" value={chosen} options={free.map((code) => ({ value: code, label: code }))} onChange={setLeft} /> : <TextField label="type" value={left} onChange={setLeft} />}</Box>
        <Box flex="1">
          <ChoiceField label="as" value={becomes} options={to.map((code) => ({ value: code, label: code }))} onChange={setRight} />
        </Box>
        <Act onClick={add} disabled={chosen === '' || becomes === ''}>
          add
        </Act>
      </Flex>
    </Box>
  )
}
