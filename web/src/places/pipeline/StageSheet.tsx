import { Box, Stack } from '@chakra-ui/react'
import { type ReactNode, useState } from 'react'

import type { ChoicesShown, PipelinePlan } from '../../api/schema'
import { CheckField, CheckFields, ChoiceField, TextField } from '../../parts/controls'
import { Heading, Section } from '../../parts/layout'
import { KINDS, type Relation, type Stage } from './plan'
import { ShareField, TypeMap } from './fields'

interface StageSheetProps {
  plan: PipelinePlan
  stage: Stage
  choices: ChoicesShown
  onChange: (stage: Stage) => void
  readOnly: boolean
}

const RELATIONS: readonly { value: Relation; label: string }[] = [
  { value: 'competes', label: 'compete with it' },
  { value: 'binds', label: 'bind it: they stand' },
  { value: 'feeds', label: 'feed it: it has seen them' },
]
const AFTER = [
  { value: 'go on', label: 'go on with the other texts' },
  { value: 'stop', label: 'stop' },
]
const SCOPES = ['sentence', 'text', 'group'].map((value) => ({ value, label: `its ${value}` }))
const named = (names: readonly string[]) => names.map((value) => ({ value, label: value }))

/** All that one stage is made of, changed where it stands. */
export function StageSheet({ plan, stage, choices, onChange, readOnly }: StageSheetProps) {
  const earlier = plan.stages.slice(0, plan.stages.findIndex(({ name }) => name === stage.name))
  const relate = (name: string, how: Relation) => {
    const rest = Object.fromEntries(Object.entries(stage.towards).filter(([other]) => other !== name))
    onChange({ ...stage, towards: how === 'competes' ? rest : { ...rest, [name]: how } })
  }
  return (
    <Box as="fieldset" aria-label={`settings of ${stage.name}`} {...(readOnly && { disabled: true })}>
      <Heading>{KINDS[stage.kind].label}</Heading>
      <Stack gap="3" px="3">
        <Box color="second">{KINDS[stage.kind].about}</Box>
        <NameField name={stage.name} taken={plan.stages.map(({ name }) => name)} onChange={(name) => onChange({ ...stage, name })} readOnly={readOnly} />
        <Settings stage={stage} earlier={earlier.map(({ name }) => name)} choices={choices} onChange={onChange} />
        {earlier.length > 0 && ['lists', 'rules', 'tagger', 'given'].includes(stage.kind) && (
          <Section>
            <Box fontWeight="bold" mb="1">
              Spans of earlier stages
            </Box>
            <Stack gap="2">
              {earlier.map(({ name }) => (
                <ChoiceField key={name} label={`those of ${name}`} value={stage.towards[name] ?? 'competes'} options={RELATIONS} onChange={(how) => relate(name, how as Relation)} />
              ))}
            </Stack>
          </Section>
        )}
        <ChoiceField label="where it fails on a text" value={stage.after_fault} options={AFTER} onChange={(after_fault) => onChange({ ...stage, after_fault: after_fault as Stage['after_fault'] })} />
      </Stack>
    </Box>
  )
}

/** What is no name yet, or another stage's, stays as it is typed and names nothing. */
function NameField({ name, taken, onChange, readOnly }: { name: string; taken: readonly string[]; onChange: (name: string) => void; readOnly: boolean }) {
  const [typed, setTyped] = useState<string | null>(null)
  const shown = typed ?? name
  const made = shown.trim()
  const put = (text: string) => {
    const fits = text.trim() !== '' && (text.trim() === name || !taken.includes(text.trim()))
    setTyped(fits && text === text.trim() ? null : text)
    if (fits) onChange(text.trim())
  }
  const error = made === '' ? 'A stage has a name.' : made !== name ? `There is another stage “${made}”.` : undefined
  return <TextField label="name of the stage" value={shown} onChange={put} readOnly={readOnly} error={error} />
}

interface SettingsProps {
  stage: Stage
  earlier: readonly string[]
  choices: ChoicesShown
  onChange: (stage: Stage) => void
}

function Settings({ stage, earlier, choices, onChange }: SettingsProps): ReactNode {
  switch (stage.kind) {
    case 'lists':
      return <CheckFields legend="which lists" help="None chosen: all that are on." options={named(choices.lists)} chosen={stage.settings.lists} onChange={(lists) => onChange({ ...stage, settings: { lists } })} />
    case 'rules':
      return <CheckFields legend="which rules" help="None chosen: all that are on, in their order." options={named(choices.rules)} chosen={stage.settings.rules} onChange={(rules) => onChange({ ...stage, settings: { rules } })} />
    case 'tagger': {
      const put = (more: Partial<typeof stage.settings>) => onChange({ ...stage, settings: { ...stage.settings, ...more } })
      const taggers = Object.entries(choices.taggers).map(([value, label]) => ({ value, label }))
      return (
        <>
          <ChoiceField label="which tagger" value={stage.settings.tagger} options={[{ value: '', label: 'the one in use' }, ...taggers]} onChange={(tagger) => put({ tagger })} />
          <ShareField label="least probability" value={stage.settings.least} onChange={(least) => put({ least })} help="Spans that are less likely are left out." />
          <ShareField label="second thoughts down to" value={stage.settings.also} onChange={(also) => put({ also })} help="Also what it weighed and did not choose; 0 for none." />
          <TypeMap label="types that count, as ours" help="None: all of its types, as they are called." from={choices.types} to={choices.types} value={stage.settings.types} onChange={(types) => put({ types })} />
        </>
      )
    }
    case 'where': {
      const put = (more: Partial<typeof stage.settings>) => onChange({ ...stage, settings: { ...stage.settings, ...more } })
      return (
        <>
          <CheckFields legend="spans of these types" help="None chosen: all." options={named(choices.types)} chosen={stage.settings.types} onChange={(types) => put({ types })} />
          <ChoiceField label="stay where" value={stage.settings.scope} options={SCOPES} onChange={(scope) => put({ scope: scope as typeof stage.settings.scope })} />
          <ChoiceField label="has, or has not" value={stage.settings.has ? 'has' : 'has not'} options={named(['has', 'has not'])} onChange={(value) => put({ has: value === 'has' })} />
          <TextField label="what this pattern finds" mono lines={3} value={stage.settings.pattern} onChange={(pattern) => put({ pattern })} help="As in a rule: 'arrives' or found(PRT)." />
          <Stages chosen={stage.settings.stages} earlier={earlier} onChange={(stages) => put({ stages })} />
        </>
      )
    }
    case 'types': {
      const put = (more: Partial<typeof stage.settings>) => onChange({ ...stage, settings: { ...stage.settings, ...more } })
      return (
        <>
          <CheckFields legend="types that stay" help="None chosen: all but those that go." options={named(choices.types)} chosen={stage.settings.keep} onChange={(keep) => put({ keep })} />
          <CheckFields legend="types that go" options={named(choices.types)} chosen={stage.settings.drop} onChange={(drop) => put({ drop })} />
          <TypeMap label="types that become another" from={choices.types} to={choices.types} value={stage.settings.rename} onChange={(rename) => put({ rename })} />
          <Stages chosen={stage.settings.stages} earlier={earlier} onChange={(stages) => put({ stages })} />
        </>
      )
    }
    case 'repeats': {
      const put = (more: Partial<typeof stage.settings>) => onChange({ ...stage, settings: { ...stage.settings, ...more } })
      return (
        <>
          <CheckFields legend="of these types" help="None chosen: all." options={named(choices.types)} chosen={stage.settings.types} onChange={(types) => put({ types })} />
          <ShareField label="certain from a probability of" value={stage.settings.least} onChange={(least) => put({ least })} />
          <ChoiceField label="looked for" value={stage.settings.in_group ? 'group' : 'text'} options={[{ value: 'text', label: 'in the same text' }, { value: 'group', label: 'in all texts of its group' }]} onChange={(value) => put({ in_group: value === 'group' })} />
          <CheckField label="names in small letters too" checked={stage.settings.small} onChange={(small) => put({ small })} />
          <Stages chosen={stage.settings.stages} earlier={earlier} legend="certain though they have no probability" onChange={(stages) => put({ stages })} />
        </>
      )
    }
    case 'given': {
      const put = (more: Partial<typeof stage.settings>) => onChange({ ...stage, settings: { ...stage.settings, ...more } })
      return (
        <>
          <TextField label="where they are from" value={stage.settings.source} onChange={(source) => put({ source })} help="A bundle calls the spans of JSON Lines “given”." />
          <TypeMap label="their types, as ours" help="None: all, as they come." from={null} to={choices.types} value={stage.settings.types} onChange={(types) => put({ types })} />
        </>
      )
    }
  }
}

function Stages({ chosen, earlier, onChange, legend = 'spans of these stages alone' }: { chosen: readonly string[]; earlier: readonly string[]; onChange: (stages: string[]) => void; legend?: string }) {
  if (earlier.length === 0) return null
  return <CheckFields legend={legend} help="None chosen: all." options={named(earlier)} chosen={chosen} onChange={onChange} />
}
