import { Box, Flex, Grid } from '@chakra-ui/react'
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { type ReactNode, useEffect, useState } from 'react'

import { api, body, messageOf, ProblemError } from '../../api/client'
import { useProject } from '../../api/project'
import type { ExampleShown, RuleShown, RuleWish } from '../../api/schema'
import { CodePoints } from '../../api/offsets'
import { useScheme } from '../../api/useScheme'
import { BothVersions, staleOf, versionOf } from '../../parts/BothVersions'
import { Act, CheckField, ChoiceField, linesOf, QuietAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Heading, Section, Title } from '../../parts/layout'
import { HoldSign, TypeCode } from '../../parts/signs'
import { Unsaved } from '../../parts/Unsaved'
import { useSettled } from '../../parts/useSettled'
import { number, plural } from '../../parts/words'
import { StaveList } from '../../stave/StaveList'
import { draftKey, draftOf, drafts, isAsWas } from './drafts'
import { Leans } from './Leans'
import { PatternField } from './PatternField'
import { trialQuery } from './queries'
import { Written } from './Written'

// Short: the answer is there soon, and one wants to see at once what a word more does.
const PAUSE_MS = 100
const NO_LEANS = { tags: [], lemmas: false }
export const TRIAL_LANES = [['gold', 'Gold'], ['rules', 'This rule']] as const

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
  const [kept] = useState(() => drafts.get(key))
  const [draft, setDraft] = useState(kept ?? draftOf(rule))
  const { wish, find, notFind } = draft
  const [leaving, setLeaving] = useState(false)
  const [editing, setEditing] = useState(rule === undefined || kept !== undefined)
  const changed = editing && !isAsWas(rule, draft)
  useEffect(() => {
    if (changed) drafts.set(key, draft)
    else drafts.delete(key)
  }, [changed, key, draft])
  const full: RuleWish = { ...wish, type: wish.type || (types[0]?.code ?? ''), must_find: linesOf(find), must_not_find: linesOf(notFind) }
  const settled = useSettled(full, PAUSE_MS)
  const trial = useQuery({
    ...trialQuery(project, { ...settled, name: settled.name || 'new rule', ...(rule && { rule: rule.id }) }),
    enabled: settled.pattern !== '' && settled.type !== '',
    placeholderData: keepPreviousData,
  })
  const saving = useMutation({
    mutationFn: (over?: number) => {
      const path = { project }
      return rule
        ? body(api.PUT('/api/projects/{project}/rules/{rule_id}', { params: { path: { ...path, rule_id: rule.id } }, body: { ...full, version: over ?? rule.version } }))
        : body(api.POST('/api/projects/{project}/rules', { params: { path }, body: full }))
    },
    onSuccess: (made) => {
      drafts.delete(key)
      setEditing(false)
      onDone(made)
    },
  })
  const save = (over?: number) => {
    if (!saving.isPending) saving.mutate(over)
  }
  const problem = saving.error ?? (trial.isError ? trial.error : null)
  const field = problem instanceof ProblemError ? problem.field : undefined
  const cancel = () => {
    drafts.delete(key)
    setDraft(draftOf(rule))
    saving.reset()
    setEditing(false)
    setLeaving(false)
    onCancel?.()
  }
  useKeys(
    !lead
      ? []
      : editing
        ? [
            { keys: ['ctrl+enter'], caps: ['ctrl', 'enter'], label: 'save the rule', run: () => save(), inFields: true },
            { keys: ['escape'], caps: ['esc'], label: 'cancel', run: () => (changed ? setLeaving(true) : cancel()), inFields: true },
          ]
        : [{ keys: ['e'], caps: ['e'], label: 'edit the rule', run: () => setEditing(true) }],
  )
  const set = (part: Partial<RuleWish>) => {
    saving.reset()
    setDraft({ ...draft, wish: { ...wish, ...part } })
  }
  // What the pattern says, while it can be read.
  const said = editing ? (trial.data && !trial.isError ? trial.data.aloud : []) : (rule?.aloud ?? [])
  const stale = staleOf(problem)
  const otherError = problem !== null && !stale && !['pattern', 'name', 'type'].includes(field ?? '') ? messageOf(problem) : undefined
  return (
    <Box>
      <Title
        side={
          lead &&
          (editing ? (
            <>
              <QuietAct onClick={cancel}>cancel</QuietAct>
              <Act loading={saving.isPending} onClick={() => save()}>
                save
              </Act>
            </>
          ) : (
            <>
              <QuietAct onClick={() => setEditing(true)}>edit</QuietAct>
              {acts}
            </>
          ))
        }
      >
        {rule ? rule.name : 'New rule'}{' '}
        {rule && (
          <Box as="span" fontSize="ui" fontFamily="body">
            marks <TypeCode code={rule.type} hue={hues.get(rule.type)} />
            {rule.on ? '' : ' · switched off'}
          </Box>
        )}
      </Title>
      {leaving && <Unsaved onDiscard={cancel} onGoOn={() => setLeaving(false)} />}
      {kept && !kept.begun && changed && (
        <Box color="second" fontSize="small" mb="2" role="status">
          What you typed before is still here, not saved.
        </Box>
      )}
      {stale && <BothVersions stale={stale} onMine={() => save(versionOf(stale))} onTheirs={cancel} />}
      {editing && (
        <Grid templateColumns="2fr 1fr auto" gap="3" alignItems="start">
          <TextField label="name" value={wish.name} autoFocus={!rule} error={field === 'name' ? messageOf(problem) : undefined} onChange={(name) => set({ name })} />
          <ChoiceField
            label="marks"
            value={full.type}
            options={types.map((t) => ({ value: t.code, label: `${t.code} ${t.name}` }))}
            error={field === 'type' ? messageOf(problem) : undefined}
            onChange={(type) => set({ type })}
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
        <Examples title="Must find" value={find} onChange={(value) => setDraft({ ...draft, find: value })} editing={editing} examples={trial.data?.examples.filter((e) => e.wanted)} />
        <Examples title="Must not find" value={notFind} onChange={(value) => setDraft({ ...draft, notFind: value })} editing={editing} examples={trial.data?.examples.filter((e) => !e.wanted)} />
      </Grid>
      {editing && trial.data && (
        <Box color="second" mt="2" role="status" data-trial="">
          As it stands it finds {plural(trial.data.finds, 'span')} in{' '}
          {trial.data.all ? 'the project’s texts' : `the first ${plural(trial.data.texts, 'text')} of the project`}
          {trial.data.judged > 0 && `; of ${plural(trial.data.judged, 'span')} in signed sentences ${number(trial.data.right)} are right`}. Texts without
          suggestions are not counted.
        </Box>
      )}
      {editing && trial.data && trial.data.staves.length > 0 && (
        <Section>
          <StaveList page={{ total: trial.data.staves.length, staves: trial.data.staves }} lanes={TRIAL_LANES} hues={hues} empty="" />
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
