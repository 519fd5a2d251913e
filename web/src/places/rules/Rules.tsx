import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { RuleShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Columns, Heading, Section } from '../../parts/layout'
import { ResourceActs, ResourceList, ResourceSheet, ResourceWindows } from '../../parts/ResourcePlace'
import { TypeCode } from '../../parts/signs'
import { useResource } from '../../parts/useResource'
import { number, share } from '../../parts/words'
import { Counting } from '../../stave/Counting'
import { Finds, type FindOutcome } from '../../stave/Finds'
import { ruleFindsQuery, rulesQuery } from './queries'
import { RuleSheet } from './RuleSheet'

/** Rules in their order: what each finds, and whether its own examples hold. */
export function Rules() {
  const project = useProject()
  const lead = useIsLead()
  const { types } = useScheme()
  const query = useQuery(rulesQuery(project))
  const { queryKey } = rulesQuery(project)
  // A rule is edited where it stands, so that what it finds is seen beside it.
  const rules = useResource<RuleShown, RuleShown[]>({ place: 'rules', one: 'rule', query, queryKey, rows: query.data, offers: lead ? ['add', 'delete'] : [] })
  return (
    <Columns
      right={<Help />}
      left={
        <ResourceList
          resource={rules}
          heading="Rules in order"
          figure="finds · right"
          above={<Counting />}
          height={44}
          label="rules"
          row={(rule) => <RuleRow rule={rule} />}
          barred={types.length === 0}
        />
      }
    >
      {rules.opened === 'add' ? (
        <Box px="6" pt="4" pb="8">
          <RuleSheet key="new" lead={lead} onDone={rules.saved} onCancel={rules.close} />
        </Box>
      ) : (
        <ResourceSheet
          resource={rules}
          empty="A rule is a pattern that marks what it matches. It carries sentences that it must find something in, and sentences that it must not. There is none yet."
        >
          {(rule) => (
            <Box px="6" pt="4" pb="8">
              <RuleSheet key={rule.id} rule={rule} lead={lead} onDone={rules.saved} acts={<ResourceActs resource={rules} />} />
              <RuleFinds key={`finds-${rule.id}`} rule={rule} />
            </Box>
          )}
        </ResourceSheet>
      )}
      <ResourceWindows
        resource={rules}
        open={rules.chosen}
        onDelete={(rule) => api.DELETE('/api/projects/{project}/rules/{rule_id}', { params: { path: { project, rule_id: rule.id } } })}
        loss={(rule) => ({ name: rule.name, says: 'The rule goes with its pattern and its examples. A rule that is switched off stays and finds nothing.' })}
      />
    </Columns>
  )
}

function RuleRow({ rule }: { rule: RuleShown }) {
  const { hues } = useScheme()
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
        <TypeCode code={rule.type} hue={hues.get(rule.type)} />
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
  const finds = useInfiniteQuery(ruleFindsQuery(project, rule.id, outcome))
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
