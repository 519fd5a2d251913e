import { Box, Flex } from '@chakra-ui/react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'

import { messageOf } from '../../api/client'
import { useProject } from '../../api/project'
import type { LookShown, RuleWish } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Act, ChoiceField, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Heading, Section } from '../../parts/layout'
import { useSettled } from '../../parts/useSettled'
import { StaveList } from '../../stave/StaveList'
import { type Draft, draftOf } from './drafts'
import { patternOf, type Slot, slotsOf, type Times, TIMES } from './example'
import { Leans } from './Leans'
import { PAUSE_MS, TRIAL_LANES, trialQuery } from './queries'
import { TrialOfAll } from './TrialOfAll'
import { TrialSaid, tried } from './TrialSaid'
import { Written } from './Written'

const MOST_CONTEXT = 6

interface FromExampleProps {
  look: LookShown
  forms: readonly string[]
  sentence: string
  first: number
  last: number
  onSelect: (first: number, last: number) => void
  onRule: (draft: Draft) => void
}

/** A rule out of chosen words: place by place how far it may vary, and what it finds then. */
export function FromExample({ look, forms, sentence, first, last, onSelect, onRule }: FromExampleProps) {
  const project = useProject()
  const { types, hues } = useScheme()
  const [around, setAround] = useState({ before: 1, behind: 0 })
  const [chosen, setChosen] = useState<Readonly<Record<string, Partial<Pick<Slot, 'way' | 'times'>>>>>({})
  const [wanted, setWanted] = useState('')
  const own = look.words[first]?.sentence
  const begin = Math.max(first - around.before, look.words.findIndex((word) => word.sentence === own))
  const end = Math.min(last + around.behind, look.words.findLastIndex((word) => word.sentence === own))
  const slots = useMemo(
    () =>
      [...slotsOf(look, forms, begin, first - 1, false), ...slotsOf(look, forms, first, last, true), ...slotsOf(look, forms, last + 1, end, false)].map((slot) => ({ ...slot, ...chosen[keyOf(slot)] })),
    [look, forms, begin, first, last, end, chosen],
  )
  const type = wanted || suggested(look, first, last) || (types[0]?.code ?? '')
  const wish: RuleWish = { name: 'new rule', type, pattern: patternOf(slots), must_find: [sentence], must_not_find: [], about: '', on: true, priority: 'usual' }
  const settled = useSettled(wish, PAUSE_MS)
  const trial = useQuery({ ...trialQuery(project, settled), enabled: settled.type !== '', placeholderData: keepPreviousData })
  const choose = (slot: Slot, part: Partial<Pick<Slot, 'way' | 'times'>>) => setChosen({ ...chosen, [keyOf(slot)]: { ...chosen[keyOf(slot)], ...part } })
  const make = () => {
    onRule({ ...draftOf(undefined), wish: { ...wish, name: '', must_find: [] }, find: sentence, begun: true })
  }
  useKeys([{ keys: ['ctrl+enter'], caps: ['ctrl', 'enter'], label: 'make a rule of it', run: make, inFields: true }], 1)
  const widen = (part: Partial<typeof around>) => setAround({ ...around, ...part })
  return (
    <Box mt="4">
      <Flex gap="2" wrap="wrap" mb="2" align="center">
        <QuietAct disabled={around.before === 0} onClick={() => widen({ before: around.before - 1 })}>
          less before
        </QuietAct>
        <QuietAct disabled={around.before >= MOST_CONTEXT || begin === 0 || look.words[begin - 1]?.sentence !== own} onClick={() => widen({ before: around.before + 1 })}>
          more before
        </QuietAct>
        <QuietAct disabled={last === first} onClick={() => onSelect(first, last - 1)}>
          mark less
        </QuietAct>
        <QuietAct disabled={look.words[last + 1]?.sentence !== own} onClick={() => onSelect(first, last + 1)}>
          mark more
        </QuietAct>
        <QuietAct disabled={around.behind === 0} onClick={() => widen({ behind: around.behind - 1 })}>
          less behind
        </QuietAct>
        <QuietAct disabled={around.behind >= MOST_CONTEXT || look.words[end + 1]?.sentence !== own} onClick={() => widen({ behind: around.behind + 1 })}>
          more behind
        </QuietAct>
      </Flex>
      <Flex gap="2" wrap="wrap" align="stretch" role="group" aria-label="places of the rule">
        {slots.map((slot) => (
          <SlotView key={keyOf(slot)} slot={slot} words={forms.slice(slot.first, slot.last + 1).join(' ')} onChange={(part) => choose(slot, part)} />
        ))}
      </Flex>
      <Flex gap="3" mt="3" align="flex-end">
        <Box w="60">
          <ChoiceField label="marks" value={type} options={types.map((t) => ({ value: t.code, label: `${t.code} ${t.name}` }))} onChange={setWanted} />
        </Box>
        <Box pb="3">
          <Act onClick={make}>make a rule of it</Act>
        </Box>
      </Flex>
      <Written pattern={wish.pattern} />
      {trial.isError ? (
        <Box color="bad" role="alert">
          {messageOf(trial.error)}
        </Box>
      ) : (
        trial.data && (
          <>
            <Box color="second" fontSize="small" mb="3" maxW="3xl">
              {trial.data.aloud.join(' ')}
            </Box>
            <Leans leans={trial.data.leans} />
            <Box role="status" data-trial="">
              <TrialSaid trial={trial.data} where={tried(trial.data)} />
            </Box>
            {!trial.data.all && <TrialOfAll key={JSON.stringify(settled)} wish={settled} hues={hues} />}
            <Section>
              <Heading>First sentences, wrong ones first</Heading>
              <StaveList page={{ total: trial.data.staves.length, staves: trial.data.staves }} lanes={TRIAL_LANES} hues={hues} empty="It finds nothing in the project’s texts." />
            </Section>
          </>
        )
      )}
    </Box>
  )
}

const keyOf = ({ first, last, marked }: Slot) => `${first}-${last}-${marked}`

/** The type that what is chosen has by lists or rules. */
function suggested(look: LookShown, first: number, last: number): string {
  const [start, end] = [look.words[first]?.start, look.words[last]?.end]
  return [...look.rules, ...look.lists].find((span) => span.start === start && span.end === end)?.type ?? ''
}

function SlotView({ slot, words, onChange }: { slot: Slot; words: string; onChange: (part: Partial<Pick<Slot, 'way' | 'times'>>) => void }) {
  return (
    <Box borderWidth="1px" borderColor={slot.marked ? 'ink' : 'hairline'} bg={slot.marked ? 'goldGround' : undefined} px="2" pt="1.5" w="48">
      <Box fontFamily="text" truncate title={words}>
        {words}
      </Box>
      <ChoiceField label={`${words} may be`} quietLabel value={String(slot.way)} options={slot.ways.map(({ label }, k) => ({ value: String(k), label }))} onChange={(value) => onChange({ way: Number(value) })} />
      <ChoiceField label={`${words} stands`} quietLabel value={slot.times} options={TIMES} onChange={(value) => onChange({ times: value as Times })} />
    </Box>
  )
}
