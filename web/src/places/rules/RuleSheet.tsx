import { Box, Flex, Grid } from '@chakra-ui/react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'

import { api, body, messageOf, ProblemError } from '../../api/client'
import { useProject } from '../../api/project'
import type { ExampleShown, RuleShown, RuleWish } from '../../api/schema'
import { CodePoints } from '../../api/offsets'
import { useScheme } from '../../api/useScheme'
import { staleOf } from '../../parts/BothVersions'
import { CheckField, ChoiceField, linesOf, TextField } from '../../parts/controls'
import { Heading, Section } from '../../parts/layout'
import { HoldSign, TypeCode } from '../../parts/signs'
import { useSettled } from '../../parts/useSettled'
import { StaveList } from '../../stave/StaveList'
import { type Draft, draftKey, draftOf, drafts } from './drafts'
import { Leans } from './Leans'
import { PatternField } from './PatternField'
import { PAUSE_MS, takenGold, TRIAL_LANES, trialQuery } from './queries'
import { SheetHead } from './SheetHead'
import { TrialOfAll } from './TrialOfAll'
import { TrialSaid, tried } from './TrialSaid'
import { useSheet } from './useSheet'
import { Written } from './Written'

type Priority = RuleWish['priority']
const PRIORITIES: { value: Priority; label: string }[] = [
  { value: 'usual', label: 'the longer span stays' },
  { value: 'high', label: 'its spans stay' },
  { value: 'low', label: 'its spans give way' },
]
const PRIORITY_SAID: Record<Priority, string> = { usual: '', high: ' · stays where it meets other rules', low: ' · gives way to other rules' }
const NO_LEANS = { tags: [], lemmas: false }

interface RuleSheetProps {
  rule?: RuleShown
  lead: boolean
  onDone: (rule: RuleShown) => void
  /** What else can be done with it while it is not being edited. */
  acts?: ReactNode
  onCancel?: () => void
}

/** One rule: its pattern, tried as it is typed, and its own examples. */
export function RuleSheet({ rule, lead, onDone, acts, onCancel }: RuleSheetProps) {
  const project = useProject()
  const { types, hues } = useScheme()
  const key = draftKey(project, rule?.id)
  const full = ({ wish, find, notFind }: Draft): RuleWish => ({ ...wish, type: wish.type || (types[0]?.code ?? ''), must_find: linesOf(find), must_not_find: linesOf(notFind) })
  const sheet = useSheet({
    kept: { get: () => drafts.get(key), set: (draft) => drafts.set(key, draft), drop: () => drafts.delete(key) },
    start: draftOf(rule),
    isNew: rule === undefined,
    lead,
    one: 'rule',
    version: rule?.version,
    send: (draft, seen) => {
      const path = { project }
      return rule
        ? body(api.PUT('/api/projects/{project}/rules/{rule_id}', { params: { path: { ...path, rule_id: rule.id } }, body: { ...full(draft), version: seen } }))
        : body(api.POST('/api/projects/{project}/rules', { params: { path }, body: full(draft) }))
    },
    onDone,
    onCancel,
  })
  const { draft, type, editing } = sheet
  const { wish, find, notFind } = draft
  const wanted = full(draft)
  const settled = useSettled(wanted, PAUSE_MS)
  const asked = { ...settled, name: settled.name || 'new rule', ...(rule && { rule: rule.id }) }
  const trial = useQuery({ ...trialQuery(project, asked), enabled: settled.pattern !== '' && settled.type !== '', placeholderData: keepPreviousData })
  const problem = sheet.error ?? (trial.isError ? trial.error : null)
  const field = problem instanceof ProblemError ? problem.field : undefined
  const set = (part: Partial<RuleWish>) => type({ ...draft, wish: { ...wish, ...part } })
  // What the pattern says, while it can be read.
  const said = editing ? (trial.data && !trial.isError ? trial.data.aloud : []) : (rule?.aloud ?? [])
  const otherError = problem !== null && !staleOf(problem) && !['pattern', 'name', 'type'].includes(field ?? '') ? messageOf(problem) : undefined
  return (
    <Box>
      <SheetHead sheet={sheet} lead={lead} acts={acts}>
        {rule ? rule.name : 'New rule'}{' '}
        {rule && (
          <Box as="span" fontSize="ui" fontFamily="body">
            {rule.takes ? 'takes spans away' : 'marks'} {!rule.takes && <TypeCode code={rule.type} hue={hues.get(rule.type)} />}
            {PRIORITY_SAID[rule.priority]}
            {rule.on ? '' : ' · switched off'}
          </Box>
        )}
      </SheetHead>
      {sheet.before && !sheet.before.begun && sheet.changed && (
        <Box color="second" fontSize="small" mb="2" role="status">
          What you typed before is still here, not saved.
        </Box>
      )}
      {editing && (
        <Grid templateColumns="2fr 1fr 1fr auto" gap="3" alignItems="start">
          <TextField label="name" value={wish.name} autoFocus={!rule} error={field === 'name' ? messageOf(problem) : undefined} onChange={(name) => set({ name })} />
          <ChoiceField
            label="marks"
            value={wanted.type}
            options={types.map((t) => ({ value: t.code, label: `${t.code} ${t.name}` }))}
            error={field === 'type' ? messageOf(problem) : undefined}
            onChange={(type) => set({ type })}
          />
          <ChoiceField
            label="where it meets other rules"
            value={wish.priority}
            options={PRIORITIES}
            onChange={(priority) => set({ priority: priority as Priority })}
          />
          <Box pt="5">
            <CheckField label="on" checked={wish.on} onChange={(on) => set({ on })} />
          </Box>
        </Grid>
      )}
      {editing ? (
        <TextField label="what it is for, in words" value={wish.about} onChange={(about) => set({ about })} />
      ) : (
        rule?.about && (
          <Box fontFamily="text" fontSize="context" maxW="3xl" mb="3">
            {rule.about}
          </Box>
        )
      )}
      {editing ? (
        <PatternField label="pattern" value={wish.pattern} problem={problem} onChange={(pattern) => set({ pattern })} />
      ) : (
        <Written pattern={wish.pattern} />
      )}
      {said.length > 0 && (
        <Box color="second" fontSize="small" mb="3" maxW="3xl">
          {said.map((sentence) => (
            <Box key={sentence}>{sentence}</Box>
          ))}
        </Box>
      )}
      <Leans leans={(editing ? trial.data?.leans : rule?.leans) ?? NO_LEANS} />
      {(otherError ?? rule?.trouble) && (
        <Box color="bad" role="alert" mb="2">
          {otherError ?? rule?.trouble}
        </Box>
      )}
      <Grid templateColumns="1fr 1fr" gap="6">
        <Examples title="Must find" value={find} onChange={(value) => type({ ...draft, find: value })} editing={editing} examples={trial.data?.examples.filter((e) => e.wanted)} />
        <Examples title="Must not find" value={notFind} onChange={(value) => type({ ...draft, notFind: value })} editing={editing} examples={trial.data?.examples.filter((e) => !e.wanted)} />
      </Grid>
      {editing && trial.data && (
        <Box color="second" mt="2" role="status" data-trial="">
          <TrialSaid trial={trial.data} where={tried(trial.data)} /> Texts without suggestions are not counted.
        </Box>
      )}
      {editing && trial.data && !trial.data.all && <TrialOfAll key={JSON.stringify(asked)} wish={asked} hues={hues} />}
      {editing && trial.data && trial.data.staves.length > 0 && (
        <Section>
          <StaveList page={{ total: trial.data.staves.length, staves: trial.data.staves }} lanes={TRIAL_LANES} hues={hues} differing={trial.data.takes ? takenGold : undefined} empty="" />
        </Section>
      )}
    </Box>
  )
}

interface ExamplesProps {
  title: string
  value: string
  onChange: (value: string) => void
  editing: boolean
  examples: ExampleShown[] | undefined
}

function Examples({ title, value, onChange, editing, examples }: ExamplesProps) {
  return (
    <Box>
      {editing ? <TextField label={`${title.toLowerCase()}, one sentence a line`} value={value} lines={3} onChange={onChange} /> : <Heading>{title}</Heading>}
      {examples?.length === 0 && !editing && <Box color="second">no example yet</Box>}
      {examples?.map((example) => (
        <Flex key={example.text} gap="2" align="flex-start" py="0.5">
          <HoldSign holds={example.holds} />
          <Box>
            <Marked example={example} />
            {!example.holds && (
              <Box as="span" color="bad">
                {' '}
                {example.wanted ? 'nothing found' : 'found'}
              </Box>
            )}
          </Box>
        </Flex>
      ))}
    </Box>
  )
}

/** The example with what was found in bold. */
function Marked({ example }: { example: ExampleShown }) {
  const points = new CodePoints(example.text)
  const ends = [0, ...example.found.map((span) => span.end)]
  const parts = example.found.flatMap((span, i) => [
    points.slice(ends[i] ?? 0, span.start),
    <b key={span.start}>{points.slice(span.start, span.end)}</b>,
  ])
  return (
    <>
      {parts}
      {points.slice(ends.at(-1) ?? 0, points.end)}
    </>
  )
}
