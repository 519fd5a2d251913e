import { Box, Flex, Grid } from '@chakra-ui/react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body, messageOf } from '../../api/client'
import { useProject } from '../../api/project'
import type { SettingsHelp, SettingsWish, TrainingShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { CheckFields, ChoiceField, LinkAct, QuietAct, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { asValues, type FormValues, toSettings } from './formValues'
import { settingsQuery } from './queries'

interface TrainingFormProps {
  count: number
  /** Settings to begin with, when those of another training are taken up. */
  from?: SettingsWish | undefined
  onClose: () => void
  onDone: (training: TrainingShown) => void
}

export function TrainingForm(props: TrainingFormProps) {
  const help = useQuery(settingsQuery).data
  return help ? <Form help={help} {...props} /> : null
}

function Form({ help, count, from, onClose, onDone }: TrainingFormProps & { help: SettingsHelp }) {
  const project = useProject()
  const scheme = useScheme()
  const [preset, setPreset] = useState(from ? '' : (help.presets[0]?.name ?? ''))
  const [name, setName] = useState(`Training ${count + 1}`)
  const [values, setValues] = useState<FormValues>(() => asValues(help, from ?? help.presets[0]?.settings))
  const change = (field: string, value: string) => setValues({ ...values, plain: { ...values.plain, [field]: value } })
  const choosePreset = (chosen: string) => {
    setPreset(chosen)
    const found = help.presets.find((p) => p.name === chosen)
    if (found) setValues(asValues(help, found.settings))
  }
  const send = async () => {
    const settings = toSettings(help, values)
    onDone(await body(api.POST('/api/projects/{project}/trainings', { params: { path: { project } }, body: { name, settings } })))
  }
  const numbers = help.settings.map((s) => s.name)
  const words = help.choices.map((c) => c.name)
  const presets = help.presets.map((p) => ({ value: p.name, label: p.name }))
  const codes = scheme.types.map((t) => t.code)
  return (
    <FormWindow title="New training" send="train" wide fields={['name', ...numbers, ...words, 'features', 'types']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <Grid templateColumns="2fr 1fr" columnGap="4">
            <TextField label="name" value={name} autoFocus error={errorOf('name')} onChange={setName} />
            <ChoiceField
              label="start from"
              value={preset}
              options={preset ? presets : [{ value: '', label: 'settings of another training' }, ...presets]}
              onChange={choosePreset}
            />
          </Grid>
          <CheckFields
            legend="learns from"
            options={help.features.map((f) => ({ value: f.name, label: f.name, title: f.help }))}
            chosen={values.features}
            error={errorOf('features')}
            onChange={(features) => setValues({ ...values, features })}
          />
          <CheckFields
            legend="types to learn; none ticked means all"
            options={codes.map((code) => ({ value: code, label: code }))}
            chosen={values.types}
            error={errorOf('types')}
            onChange={(types) => setValues({ ...values, types })}
          />
          <AllSettings help={help} values={values} errorOf={errorOf} onChange={change} onValues={setValues} />
        </>
      )}
    </FormWindow>
  )
}

interface AllSettingsProps {
  help: SettingsHelp
  values: FormValues
  errorOf: (field: string) => string | undefined
  onChange: (field: string, value: string) => void
  onValues: (values: FormValues) => void
}

/** Every other setting, in groups; folded until somebody wants them, or one of them is wrong. */
function AllSettings({ help, values, errorOf, onChange, onValues }: AllSettingsProps) {
  const [open, setOpen] = useState(false)
  const [asText, setAsText] = useState(false)
  const fields = [...help.choices, ...help.settings]
  const isOpen = open || fields.some(({ name }) => errorOf(name) !== undefined)
  return (
    <Box borderTopWidth="1px" borderColor="hairline" pt="2" mb="2">
      <Flex justify="space-between">
        <LinkAct aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          all settings
        </LinkAct>
        {isOpen && !asText && <LinkAct onClick={() => setAsText(true)}>import settings from a config file</LinkAct>}
      </Flex>
      {isOpen && asText && (
        <FromText
          onClose={() => setAsText(false)}
          onRead={(settings) => {
            onValues(asValues(help, settings))
            setAsText(false)
          }}
        />
      )}
      {isOpen &&
        [...new Set(fields.map(({ group }) => group))].map((group) => (
          <Box key={group} as="fieldset" mt="3">
            <Box as="legend" fontWeight="bold" fontSize="small" mb="1">
              {group}
            </Box>
            <Grid templateColumns="repeat(3, 1fr)" columnGap="4">
              {help.choices
                .filter((choice) => choice.group === group)
                .map(({ name, title, options, help: meaning }) => (
                  <ChoiceField
                    key={name}
                    label={title}
                    code={name}
                    value={values.plain[name] ?? ''}
                    options={options.map((option) => ({ value: option, label: option }))}
                    help={meaning}
                    error={errorOf(name)}
                    onChange={(value) => onChange(name, value)}
                  />
                ))}
              {help.settings
                .filter((setting) => setting.group === group)
                .map(({ name, title, help: meaning }) => (
                  <TextField key={name} label={title} code={name} value={values.plain[name] ?? ''} help={meaning} error={errorOf(name)} onChange={(value) => onChange(name, value)} />
                ))}
            </Grid>
          </Box>
        ))}
    </Box>
  )
}

/** Settings from a file as `urdaten tagger config` prints it; a fault is shown and the text stays. */
function FromText({ onRead, onClose }: { onRead: (settings: SettingsWish) => void; onClose: () => void }) {
  const project = useProject()
  const [text, setText] = useState('')
  const { mutate, error, isPending } = useMutation({
    mutationFn: () => body(api.POST('/api/projects/{project}/trainings/read-config', { params: { path: { project } }, body: { text } })),
    onSuccess: onRead,
  })
  return (
    <Box mb="3">
      <TextField label="config file" value={text} lines={6} mono error={error ? messageOf(error) : undefined} onChange={setText} />
      <Flex gap="2">
        <QuietAct loading={isPending} onClick={() => mutate()}>
          import
        </QuietAct>
        <QuietAct onClick={onClose}>close</QuietAct>
      </Flex>
    </Box>
  )
}
