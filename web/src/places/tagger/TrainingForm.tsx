import { Box, Grid } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { SettingsHelp, SettingsWish, TrainingShown } from '../../api/schema'
import { CheckField, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { settingsQuery } from './queries'

interface TrainingFormProps {
  count: number
  onClose: () => void
  onDone: (training: TrainingShown) => void
}

export function TrainingForm(props: TrainingFormProps) {
  const help = useQuery(settingsQuery).data
  return help ? <Form help={help} {...props} /> : null
}

function Form({ help, count, onClose, onDone }: TrainingFormProps & { help: SettingsHelp }) {
  const project = useProject()
  const [name, setName] = useState(`Training ${count + 1}`)
  const [values, setValues] = useState(Object.fromEntries(help.settings.map((s) => [s.name, String(s.default)])))
  const [features, setFeatures] = useState<readonly string[]>(help.features)
  const send = async () => {
    const numbers = Object.fromEntries(Object.entries(values).map(([key, value]) => [key, value.trim() === '' ? Number.NaN : Number(value)]))
    const bad = Object.entries(numbers).find(([, value]) => Number.isNaN(value))
    if (bad) throw new Error(`${bad[0]} is not a number.`)
    // The names come from the server itself.
    const settings = { ...numbers, features: help.features.filter((f) => features.includes(f)) } as unknown as SettingsWish
    const made = await body(api.POST('/api/projects/{project}/trainings', { params: { path: { project } }, body: { name, settings } }))
    onDone(made)
  }
  return (
    <FormWindow title="New training" send="train" fields={['name', ...help.settings.map((s) => s.name), 'features']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <TextField label="name" value={name} autoFocus error={errorOf('name')} onChange={setName} />
          <Grid templateColumns="1fr 1fr 1fr" columnGap="3">
            {help.settings.map((setting) => (
              <TextField
                key={setting.name}
                label={setting.name}
                value={values[setting.name] ?? ''}
                help={setting.help}
                error={errorOf(setting.name)}
                onChange={(value) => setValues({ ...values, [setting.name]: value })}
              />
            ))}
          </Grid>
          <Box as="fieldset">
            <Box as="legend" fontSize="small" color="second" mb="1">
              features
            </Box>
            <Grid templateColumns="repeat(5, auto)" justifyContent="start" columnGap="4">
              {help.features.map((feature) => (
                <CheckField
                  key={feature}
                  label={feature}
                  checked={features.includes(feature)}
                  onChange={(on) => setFeatures(on ? [...features, feature] : features.filter((f) => f !== feature))}
                />
              ))}
            </Grid>
            {errorOf('features') && (
              <Box color="bad" role="alert">
                {errorOf('features')}
              </Box>
            )}
          </Box>
        </>
      )}
    </FormWindow>
  )
}
