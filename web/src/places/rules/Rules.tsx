import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { RuleShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Empty, Heading, Section } from '../../parts/layout'
import { RowList } from '../../parts/RowList'
import { TypeCode } from '../../parts/signs'
import { usePick } from '../../parts/usePick'
import { Sure } from '../../parts/Window'
import { number, share } from '../../parts/words'
import { Counting } from '../../stave/Counting'
import { Finds, type FindOutcome } from '../../stave/Finds'
import { ruleFindsQuery, rulesQuery } from './queries'
import { RuleSheet } from './RuleSheet'

/** Rules in their order: what each finds, and whether its own examples hold. */
export function Rules() {
  const project = useProject()
  const lead = useIsLead()
  const { hues, types } = useScheme()
  const query = useQuery(rulesQuery(project))
  const { chosen, pick } = usePick('rules', query.data, 'rule')
  const [making, setMaking] = useState(false)
  const [removing, setRemoving] = useState(false)
  useKeys(lead ? [{ keys: ['n'], caps: ['n'], label: 'new rule', run: () => setMaking(true) }] : [])
  const left = (
    <>
      <Box px="3" pt="3">
        <Heading side={<Box fontSize="tiny" color="second">finds · right</Box>}>Rules in order</Heading>
      </Box>
      <Counting />
      <RowList
        rows={query.data ?? []}
        keyOf={(r) => r.id}
        chosen={making ? null : (chosen?.id ?? null)}
        onChoose={(rule) => {
          setMaking(false)
          pick(rule)
        }}
        height={44}
        label="rules"
      >
        {(rule) => <RuleRow rule={rule} hue={hues.get(rule.type)} />}
      </RowList>
      {lead && (
        <Box p="3" borderTopWidth="1px" borderColor="hairline">
          <Act onClick={() => setMaking(true)} disabled={types.length === 0}>
            new rule
          </Act>
        </Box>
      )}
    </>
  )
  return (
    <Columns left={left} right={<Help />}>
      <Ask query={query}>
        {() =>
          making ? (
            <Box px="6" pt="4" pb="8">
              <RuleSheet
                key="new"
                lead={lead}
                onDone={(rule) => {
                  setMaking(false)
                  pick(rule)
                }}
                onCancel={() => setMaking(false)}
              />
            </Box>
          ) : chosen ? (
            <Box px="6" pt="4" pb="8">
              <RuleSheet key={chosen.id} rule={chosen} lead={lead} onDone={pick} onRemove={() => setRemoving(true)} />
              <RuleFinds key={`finds-${chosen.id}`} rule={chosen} />
            </Box>
          ) : (
            <Empty act={lead && <Act onClick={() => setMaking(true)}>new rule</Act>}>
              A rule is a pattern that marks what it matches. It carries sentences that it must find something in, and
              sentences that it must not. There is none yet.
            </Empty>
          )
        }
      </Ask>
      {removing && chosen && (
        <Sure
          title={`Remove the rule “${chosen.name}”?`}
          act="remove"
          onClose={() => setRemoving(false)}
          onSure={async () => {
            await api.DELETE('/api/projects/{project}/rules/{rule_id}', { params: { path: { project, rule_id: chosen.id } } })
            pick(null)
          }}
        >
          The rule goes with its pattern and its examples. A rule that is switched off stays and finds nothing.
        </Sure>
      )}
    </Columns>
  )
}

function RuleRow({ rule, hue }: { rule: RuleShown; hue: number | undefined }) {
  return (
    <Box px="2.5" py="1">
      <Flex justify="space-between" gap="2">
        <Box truncate color={rule.on ? 'ink' : 'second'}>
          {rule.name}
        </Box>
        <Box color="second" fontVariantNumeric="tabular-nums" whiteSpace="nowrap">
          {number(rule.finds)} · {share(rule.right, rule.judged)}
        </Box>
      </Flex>
      <Box fontSize="small" color="second">
        <TypeCode code={rule.type} hue={hue} />
        {rule.on ? '' : ' · off'}
        {rule.failing > 0 && (
          <Box as="span" color="bad">
            {' '}
            · {number(rule.failing)} failing
          </Box>
        )}
        {rule.trouble && (
          <Box as="span" color="bad">
            {' '}
            · too slow
          </Box>
        )}
      </Box>
    </Box>
  )
}

const LANE = ['rules', 'This rule'] as const

function RuleFinds({ rule }: { rule: RuleShown }) {
  const project = useProject()
  const { hues } = useScheme()
  const [outcome, setOutcome] = useState<FindOutcome>('')
  const finds = useQuery(ruleFindsQuery(project, rule.id, outcome))
  return <Finds counts={rule} outcome={outcome} onOutcome={setOutcome} query={finds} lane={LANE} hues={hues} />
}

const HELP: readonly (readonly [string, string])[] = [
  ['Wharf', 'these letters'],
  ['(?i)wharf', 'in any case'],
  ['[1-9]', 'one of these characters'],
  ['\\d{4}', 'four figures'],
  ['\\p{Lu}\\p{L}*', 'a word with a capital'],
  ['(?:port|ship)', 'one or the other'],
  ['\\b', 'the edge of a word'],
  ['(?<=from )', 'stands after “from ”'],
  ['(?P<mark>…)', 'only this part is marked'],
]

function Help() {
  return (
    <>
      <Heading>What a pattern may ask</Heading>
      {HELP.map(([pattern, words]) => (
        <Box key={pattern} mb="1.5">
          <Box as="code" fontFamily="mono" fontSize="small">
            {pattern}
          </Box>{' '}
          {words}
        </Box>
      ))}
      <Section>
        <Box color="second">
          A rule is a pattern matched against each line of a text. What it matches is widened to whole tokens, and where its
          matches overlap the longest stays. What a pattern may take on a text is counted in steps; one that takes too many
          says so here, and finds nothing in that text.
        </Box>
      </Section>
    </>
  )
}
