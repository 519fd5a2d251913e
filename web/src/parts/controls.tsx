import { Button, type ButtonProps, chakra, Checkbox, Field, Fieldset, Flex, Input, NativeSelect, Textarea } from '@chakra-ui/react'
import { type ReactNode, useId } from 'react'

/** The act that the screen is for. */
export function Act(props: ButtonProps) {
  return <Button variant="solid" {...props} />
}

/** Any other act. */
export function QuietAct(props: ButtonProps) {
  return <Button variant="ghost" {...props} />
}

/** An act that takes something away or stops it. */
export function BadAct(props: ButtonProps) {
  return <Button variant="outline" {...props} />
}

/** A figure or a name that opens what lies behind it. */
export function LinkAct(props: ButtonProps) {
  return <Button variant="plain" {...props} />
}

interface FieldProps {
  label: string
  /** What it is called in files, small beside the label. */
  code?: string | undefined
  help?: string | undefined
  error?: string | undefined
  disabled?: boolean | undefined
  /** The label is there for screen readers only: the column's first field shows it. */
  quietLabel?: boolean | undefined
  children: ReactNode
}

export function Labelled({ label, code, help, error, disabled = false, quietLabel = false, children }: FieldProps) {
  return (
    <Field.Root invalid={error !== undefined} disabled={disabled}>
      <Flex gap="1.5" align="baseline" mb="0.5" srOnly={quietLabel}>
        <Field.Label>{label}</Field.Label>
        {code && <Code>{code}</Code>}
      </Flex>
      {children}
      {error !== undefined ? <Field.ErrorText role="alert">{error}</Field.ErrorText> : help && <Field.HelperText>{help}</Field.HelperText>}
    </Field.Root>
  )
}

/** What something is called in files, small beside its name. */
function Code({ children }: { children: string }) {
  return (
    <chakra.code fontFamily="mono" fontSize="tiny" color="second">
      {children}
    </chakra.code>
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

export function TextField(props: TextFieldProps) {
  const { label, code, value, onChange, help, error, mono = false, lines, type, autoFocus = false, readOnly = false } = props
  const fontFamily = mono ? 'mono' : props.serif ? 'text' : 'body'
  const shared = { fontFamily, value, readOnly, autoFocus }
  return (
    <Labelled label={label} code={code} help={help} error={error} quietLabel={props.quietLabel}>
      {lines ? (
        <Textarea {...shared} rows={lines} onChange={(e) => onChange(e.target.value)} />
      ) : (
        <Input {...shared} type={type} autoComplete={props.autoComplete} onChange={(e) => onChange(e.target.value)} />
      )}
    </Labelled>
  )
}

interface SuggestFieldProps {
  label: string
  value: string
  onChange: (value: string) => void
  suggestions: readonly { value: string; label: string }[]
  help?: string | undefined
}

/** Something to type, with suggestions. */
export function SuggestField({ label, value, onChange, suggestions, help }: SuggestFieldProps) {
  const id = useId()
  return (
    <Labelled label={label} help={help}>
      <Input value={value} list={id} onChange={(e) => onChange(e.target.value)} />
      <datalist id={id}>
        {suggestions.map((one) => (
          <option key={one.value} value={one.value} label={one.label} />
        ))}
      </datalist>
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
  const { label, code, value, onChange, options, help, error, disabled } = props
  return (
    <Labelled label={label} code={code} help={help} error={error} disabled={disabled} quietLabel={props.quietLabel}>
      <NativeSelect.Root>
        <NativeSelect.Field value={value} onChange={(e) => onChange(e.currentTarget.value)}>
          {options.map((option) => (
            <option key={option.value} value={option.value}>
              {option.label}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Labelled>
  )
}

export function CheckField(props: { label: string; checked: boolean; onChange: (checked: boolean) => void; disabled?: boolean; title?: string | undefined }) {
  return (
    <Checkbox.Root checked={props.checked} disabled={props.disabled} title={props.title} onCheckedChange={({ checked }) => props.onChange(checked === true)}>
      <Checkbox.HiddenInput />
      <Checkbox.Control />
      <Checkbox.Label>{props.label}</Checkbox.Label>
    </Checkbox.Root>
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
    <Fieldset.Root invalid={error !== undefined}>
      <Fieldset.Legend>{legend}</Fieldset.Legend>
      <Fieldset.Content>
        {options.map(({ value, label, title }) => (
          <CheckField key={value} label={label} title={title} checked={chosen.includes(value)} onChange={(on) => toggle(value, on)} />
        ))}
      </Fieldset.Content>
      {error !== undefined ? <Fieldset.ErrorText role="alert">{error}</Fieldset.ErrorText> : help && <Fieldset.HelperText>{help}</Fieldset.HelperText>}
    </Fieldset.Root>
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
  disabled?: boolean
  onChoose: (file: File) => void
}

/** A file from this computer. */
export function FileField({ label, accept, help, error, disabled, onChoose }: FileFieldProps) {
  return (
    <Labelled label={label} help={help} error={error} disabled={disabled}>
      <Input type="file" accept={accept} onChange={(event) => event.target.files?.[0] && onChoose(event.target.files[0])} />
    </Labelled>
  )
}
