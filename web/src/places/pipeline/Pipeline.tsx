import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { messageOf } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { PipelineShown, PlanLookShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, ChoiceField, LinkAct, QuietAct } from '../../parts/controls'
import { useKeys, type KeyBinding } from '../../parts/keys'
import { Columns, Heading, Section, Title } from '../../parts/layout'
import { useSettled } from '../../parts/useSettled'
import { number, plural, score } from '../../parts/words'
import { StaveList } from '../../stave/StaveList'
import { Ablation } from './Ablation'
import { BringWindow } from './BringWindow'
import { Compared, type Pair } from './Compared'
import { f1Of } from './figures'
import { changed, KINDS, type Kind, movedTo, newStage, switched, without, withStage } from './plan'
import { PolicySheet } from './PolicySheet'
import { lookQuery, pipelineQuery } from './queries'
import { StageRows } from './StageRows'
import { StageSheet } from './StageSheet'
import { TracePane } from './TracePane'
import { useDraft } from './useDraft'
import { useKeeping } from './useKeeping'
import { Versions } from './Versions'

/** How one answer is made from lists, rules and taggers, and what each stage brings. */
export function Pipeline() {
  const query = useQuery(pipelineQuery(useProject()))
  return (
    <Ask query={query}>{(shown) => <Open shown={shown} />}</Ask>
  )
}

function Open({ shown }: { shown: PipelineShown }) {
  const project = useProject()
  const lead = useIsLead()
  const draft = useDraft(project, shown.version)
  const { plan, change } = draft
  const [chosen, setChosen] = useState<string>(plan.stages[0]?.name ?? '')
  const [pair, setPair] = useState<Pair | null>(null)
  const [bringing, setBringing] = useState(false)
  const keeping = useKeeping(draft)
  const look = useQuery(lookQuery(project, useSettled(plan)))
  const stage = plan.stages.find(({ name }) => name === chosen)
  const at = plan.stages.findIndex(({ name }) => name === chosen)
  const names = [...plan.stages.map(({ name }) => name), '']
  const step = (by: number) => setChosen(names[Math.min(Math.max(names.indexOf(stage ? chosen : '') + by, 0), names.length - 1)] ?? '')
  const move = (name: string, place: number) => change(movedTo(plan, name, place))
  const remove = (name: string) => {
    change(without(plan, name))
    setChosen(plan.stages[at + 1]?.name ?? plan.stages[at - 1]?.name ?? '')
  }
  const add = (kind: Kind) => {
    const made = newStage(plan, kind)
    change(withStage(plan, made))
    setChosen(made.name)
  }
  const moving: KeyBinding[] = [
    { keys: ['arrowup'], caps: ['↑'], label: 'stage before', run: () => step(-1), quiet: true, repeats: true },
    { keys: ['arrowdown'], caps: ['↑', '↓'], label: 'stage', run: () => step(1), repeats: true },
  ]
  const changing: KeyBinding[] = [
    ...(stage
      ? [
          { keys: ['t'], caps: ['t'], label: stage.on ? 'turn off' : 'turn on', run: () => change(switched(plan, chosen)) },
          { keys: ['shift+arrowup'], caps: ['shift', '↑'], label: 'move up', run: () => move(chosen, at - 1) },
          { keys: ['shift+arrowdown'], caps: ['shift', '↓'], label: 'move down', run: () => move(chosen, at + 1), quiet: true },
          { keys: ['backspace'], caps: ['⌫'], label: 'delete the stage', run: () => remove(chosen), quiet: true },
        ]
      : []),
    ...(draft.undo ? [{ keys: ['ctrl+z'], caps: ['ctrl', 'z'], label: 'undo', run: draft.undo }] : []),
    ...(draft.redo ? [{ keys: ['ctrl+shift+z'], caps: ['ctrl', 'shift', 'z'], label: 'redo', run: draft.redo, quiet: true }] : []),
    ...(draft.isChanged ? [{ keys: ['ctrl+enter'], caps: ['ctrl', '↵'], label: 'save', run: keeping.keep, inFields: true }] : []),
  ]
  useKeys(lead ? [...moving, ...changing] : moving)
  return (
    <Columns
      wide
      left={<Versions draft={draft} now={shown.version} lead={lead} onCompare={setPair} />}
      right={
        <Box tabIndex={0} role="region" aria-label="settings" pb="6">
          {stage ? (
            <StageSheet
              key={at}
              plan={plan}
              stage={stage}
              choices={shown.choices}
              readOnly={!lead}
              onChange={(next) => {
                change(changed(plan, stage.name, next))
                setChosen(next.name)
              }}
            />
          ) : (
            <PolicySheet plan={plan} choices={shown.choices} readOnly={!lead} onChange={change} />
          )}
        </Box>
      }
    >
      <Box px="6" pt="4" pb="8">
        <Title
          side={
            <>
              {lead && !draft.isChanged && !shown.fault && (
                <Box asChild color="action" fontWeight="bold">
                  <a href={`/api/projects/${encodeURIComponent(project)}/pipeline/bundle`} download>
                    export as a bundle
                  </a>
                </Box>
              )}
              {lead && !draft.isChanged && <QuietAct onClick={() => setBringing(true)}>bring in a bundle</QuietAct>}
              {lead && draft.isChanged && (
                <>
                  <QuietAct onClick={draft.discard}>discard</QuietAct>
                  <Act loading={keeping.busy} onClick={keeping.keep}>
                    save
                  </Act>
                </>
              )}
            </>
          }
        >
          Pipeline{' '}
          <Box as="span" fontSize="ui" fontFamily="body" color="second">
            {draft.isChanged ? 'changed, not saved' : shown.version.number === 0 ? 'as every project begins' : `version ${number(shown.version.number)}`}
          </Box>
        </Title>
        {keeping.stale}
        {bringing && <BringWindow onClose={() => setBringing(false)} onPlan={change} />}
        {pair && (
          <Box mb="4">
            <Compared pair={pair} onPair={setPair} onClose={() => setPair(null)} />
          </Box>
        )}
        {shown.fault && !draft.isChanged && (
          <Box color="bad" role="alert" mb="3">
            It cannot run as it is, so nothing is answered: {shown.fault}
          </Box>
        )}
        {!(look.isError && !look.data) && <Figures look={look.data} isChanged={draft.isChanged} />}
        {look.isError && (
          <Box color="bad" role="alert" mb="2">
            {messageOf(look.error)}
          </Box>
        )}
        <StageRows
          stages={plan.stages}
          policy={plan.policy}
          look={look.isError ? undefined : look.data}
          passing={look.isPlaceholderData}
          chosen={stage ? chosen : ''}
          onChoose={setChosen}
          onSwitch={lead ? (name) => change(switched(plan, name)) : undefined}
          onMove={move}
        />
        {lead && <Acts plan={plan} at={at} onMove={(place) => move(chosen, place)} onDelete={stage && (() => remove(chosen))} onAdd={add} />}
        <Section>
          <TracePane plan={plan} begin={look.data?.example ?? ''} barred={look.isError} />
        </Section>
        {draft.isChanged && look.data && !look.isError && <Differing look={look.data} />}
        <Section>
          <Ablation plan={plan} barred={look.isError} lead={lead} onTry={change} />
        </Section>
      </Box>
    </Columns>
  )
}

/** The answer on dev, with what the change brings. */
function Figures({ look, isChanged }: { look: PlanLookShown | undefined; isChanged: boolean }) {
  if (!look) return <Box color="second" mb="3" aria-busy="true">Counting on dev…</Box>
  if (look.sentences === 0) return <Box color="second" mb="3">No sentence of a dev text is signed, so there is nothing to hold it against.</Box>
  const now = f1Of(look.after)
  const before = f1Of(look.before)
  const gain = now !== null && before !== null ? 100 * (now - before) : null
  return (
    <Box mb="3" aria-live="polite">
      <Box as="span" fontSize="head" fontFamily="heading">
        F1 {score(now)}
      </Box>{' '}
      <Box as="span" color="second">
        on {plural(look.sentences, 'signed sentence')} of {look.all ? '' : 'the first '}
        {plural(look.texts, 'dev text')} · {number(look.after.right)} of {number(look.after.found)} spans right, {number(look.after.gold)} in gold
      </Box>
      {look.weights && <BySeen seen={look.weights} />}
      {isChanged && gain !== null && (
        <Box fontWeight="bold" color={look.weights ? 'second' : gain > 0 ? 'good' : gain < 0 ? 'bad' : undefined}>
          {gain === 0 ? 'as good as it is now' : `${gain > 0 ? '+' : '−'}${Math.abs(gain).toFixed(1)} against F1 ${score(before)} now`} · {plural(look.differing, 'sentence')} differ
        </Box>
      )}
    </Box>
  )
}

/** What is to be said of a figure whose weights have been learnt on the same sentences. */
function BySeen({ seen: { weights, changes } }: { seen: NonNullable<PlanLookShown['weights']> }) {
  return (
    <Box fontSize="small" color="gold">
      {weights.sentences > 0
        ? `Its weights have seen these sentences; by folds, each answered by weights that have not, it is F1 ${score(f1Of(weights.weighed))}.`
        : 'Its weights came with a bundle, and have not seen these sentences unless they are there too.'}
      {changes.length > 0 && ` They were learnt for other stages: ${changes.join('; ')}.`}
    </Box>
  )
}

interface ActsProps {
  plan: PipelineShown['version']['plan']
  at: number
  onMove: (place: number) => void
  onDelete: (() => void) | undefined
  onAdd: (kind: Kind) => void
}

function Acts({ plan, at, onMove, onDelete, onAdd }: ActsProps) {
  const [kind, setKind] = useState<Kind>('where')
  return (
    <Flex gap="2" mt="2" align="flex-end" wrap="wrap">
      <QuietAct disabled={at < 1} onClick={() => onMove(at - 1)}>
        move up
      </QuietAct>
      <QuietAct disabled={at < 0 || at + 1 >= plan.stages.length} onClick={() => onMove(at + 1)}>
        move down
      </QuietAct>
      <QuietAct disabled={!onDelete} onClick={onDelete}>
        delete
      </QuietAct>
      <Box flex="1" />
      <Box w="40">
        <ChoiceField label="a stage of this kind" quietLabel value={kind} options={Object.entries(KINDS).map(([value, { label }]) => ({ value, label }))} onChange={(value) => setKind(value as Kind)} />
      </Box>
      <Act onClick={() => onAdd(kind)}>add a stage</Act>
    </Flex>
  )
}

const LANES = [['gold', 'Gold'], ['before', 'Now'], ['after', 'Changed']] as const

function Differing({ look }: { look: PlanLookShown }) {
  const { hues } = useScheme()
  const [open, setOpen] = useState(false)
  if (look.differing === 0) return null
  return (
    <Section>
      <Heading side={<LinkAct aria-expanded={open} onClick={() => setOpen(!open)}>{open ? 'hide' : 'show'}</LinkAct>}>{plural(look.differing, 'sentence')} with another answer</Heading>
      {open && <StaveList page={{ total: look.differing, staves: look.shown }} lanes={LANES} hues={hues} empty="" />}
    </Section>
  )
}
