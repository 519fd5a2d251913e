import { Box, Button, type ButtonProps, Flex, Input, NativeSelect, Textarea } from '@chakra-ui/react'
import { type ReactNode, useId } from 'react'

/** The act that the screen is for. */
export function Act(props: ButtonProps) {
  return <Button size="xs" h="7" bg="action" color="onAction" borderRadius="sm" fontSize="ui" px="3" {...props} />
}

/** Any other act. */
export function QuietAct(props: ButtonProps) {
  return (
    <Button
      size="xs"
      h="7"
      bg="transparent"
      color="action"
      borderRadius="sm"
      fontSize="ui"
      px="2"
      _hover={{ bg: 'chosen' }}
      {...props}
    />
  )
}

/** An act that takes something away or stops it. */
export function BadAct(props: ButtonProps) {
  return (
    <Button
      size="xs"
      h="7"
      bg="transparent"
      color="bad"
      borderWidth="1px"
      borderColor="bad"
      borderRadius="sm"
      fontSize="ui"
      px="2.5"
      {...props}
    />
  )
}

/** A figure or a name that opens what lies behind it. */
export function LinkAct(props: ButtonProps) {
  return (
    <Button
      variant="plain"
      h="auto"
      minW="0"
      p="0"
      fontSize="inherit"
      fontWeight="inherit"
      lineHeight="inherit"
      color="action"
      textDecoration="underline"
      textUnderlineOffset="3px"
      textDecorationColor="hairline"
      {...props}
    />
  )
}

interface FieldProps {
  label: string
  /** What it is called in files, small beside the label. */
  code?: string | undefined
  help?: string | undefined
  error?: string | undefined
  /** The label is there for screen readers only: the column's first field shows it. */
  quietLabel?: boolean | undefined
  children: (id: string, describedBy: string | undefined) => ReactNode
}

function Labelled({ label, code, help, error, quietLabel = false, children }: FieldProps) {
  const id = useId()
  const note = error ?? help
  return (
    <Box mb="2.5">
      <Flex gap="1.5" align="baseline" fontSize="small" color="second" mb="0.5" srOnly={quietLabel}>
        <label htmlFor={id}>{label}</label>
        {code && (
          <Box as="code" fontFamily="mono" fontSize="tiny">
            {code}
          </Box>
        )}
      </Flex>
      {children(id, note ? `${id}-note` : undefined)}
      {note && (
        <Box id={`${id}-note`} fontSize="tiny" color={error ? 'bad' : 'second'} mt="0.5" role={error ? 'alert' : undefined}>
          {note}
        </Box>
      )}
    </Box>
  )
}

interface TextFieldProps {
  label: string
  code?: string
  value: string
  onChange: (value: string) => void
  help?: string | undefined
  error?: string | undefined
  mono?: boolean
  lines?: number
  type?: string
  autoComplete?: string
  autoFocus?: boolean
  readOnly?: boolean
  serif?: boolean
  quietLabel?: boolean
}

const FIELD = { bg: 'raised', borderColor: 'edge', borderRadius: 'sm', fontSize: 'ui', px: '2' } as const

export function TextField(props: TextFieldProps) {
  const { label, value, onChange, help, error, mono = false, lines, type, autoFocus = false, readOnly = false } = props
  const font = mono ? 'mono' : props.serif ? 'text' : 'body'
  return (
    <Labelled label={label} code={props.code} help={help} error={error} quietLabel={props.quietLabel}>
      {(id, note) =>
        lines ? (
          <Textarea
            id={id}
            {...FIELD}
            py="1.5"
            rows={lines}
            fontFamily={font}
            value={value}
            readOnly={readOnly}
            aria-describedby={note}
            aria-invalid={error !== undefined}
            autoFocus={autoFocus}
            onChange={(e) => onChange(e.target.value)}
          />
        ) : (
          <Input
            id={id}
            {...FIELD}
            h="7"
            type={type}
            autoComplete={props.autoComplete}
            fontFamily={font}
            value={value}
            readOnly={readOnly}
            aria-describedby={note}
            aria-invalid={error !== undefined}
            autoFocus={autoFocus}
            onChange={(e) => onChange(e.target.value)}
          />
        )
      }
    </Labelled>
  )
}

interface ChoiceFieldProps {
  label: string
  code?: string
  value: string
  onChange: (value: string) => void
  options: readonly { value: string; label: string }[]
  help?: string | undefined
  error?: string | undefined
  disabled?: boolean
  quietLabel?: boolean
}

export function ChoiceField(props: ChoiceFieldProps) {
  const { label, value, onChange, options, help, error, disabled = false } = props
  return (
    <Labelled label={label} code={props.code} help={help} error={error} quietLabel={props.quietLabel}>
      {(id, note) => (
        <NativeSelect.Root size="xs" disabled={disabled}>
          <NativeSelect.Field
            id={id}
            {...FIELD}
            h="7"
            value={value}
            aria-describedby={note}
            onChange={(e) => onChange(e.currentTarget.value)}
          >
            {options.map((option) => (
              <option key={option.value} value={option.value}>
                {option.label}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      )}
    </Labelled>
  )
}

export function CheckField(props: {
  label: string
  checked: boolean
  onChange: (checked: boolean) => void
  disabled?: boolean
}) {
  const id = useId()
  return (
    <Flex align="center" gap="1.5" mb="1.5">
      <input
        id={id}
        type="checkbox"
        checked={props.checked}
        disabled={props.disabled}
        onChange={(e) => props.onChange(e.target.checked)}
      />
      <label htmlFor={id}>{props.label}</label>
    </Flex>
  )
}

interface CheckFieldsProps {
  legend: string
  options: readonly { value: string; label: string; title?: string }[]
  chosen: readonly string[]
  help?: string | undefined
  error?: string | undefined
  onChange: (chosen: string[]) => void
}

/** Any of several. */
export function CheckFields({ legend, options, chosen, help, error, onChange }: CheckFieldsProps) {
  const toggle = (value: string, on: boolean) => onChange(options.map((o) => o.value).filter((v) => (v === value ? on : chosen.includes(v))))
  return (
    <Box as="fieldset" mb="2">
      <Box as="legend" fontSize="small" color="second" mb="1">
        {legend}
      </Box>
      <Flex wrap="wrap" columnGap="4">
        {options.map(({ value, label, title }) => (
          <Box key={value} title={title}>
            <CheckField label={label} checked={chosen.includes(value)} onChange={(on) => toggle(value, on)} />
          </Box>
        ))}
      </Flex>
      {(error ?? help) && (
        <Box fontSize="tiny" color={error ? 'bad' : 'second'} role={error ? 'alert' : undefined}>
          {error ?? help}
        </Box>
      )}
    </Box>
  )
}

/** Lines of a text field as a list, and back. */
export function linesOf(value: string): string[] {
  return value
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '')
}

interface FileFieldProps {
  label: string
  accept: string
  help?: string
  error?: string | undefined
  onChoose: (name: string, text: string) => void
}

/** A text file from this computer. */
export function FileField({ label, accept, help, error, onChoose }: FileFieldProps) {
  const choose = async (file: File | undefined) => {
    if (file) onChoose(file.name, await file.text())
  }
  return (
    <Labelled label={label} help={help} error={error}>
      {(id, note) => <input id={id} type="file" accept={accept} aria-describedby={note} onChange={(event) => void choose(event.target.files?.[0])} />}
    </Labelled>
  )
}
