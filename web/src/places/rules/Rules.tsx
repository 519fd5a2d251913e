import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'

import { api } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { FragmentShown, RuleShown, SpanShown, StaveShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { ChoiceField, LinkAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Heading, Section } from '../../parts/layout'
import { ResourceActs, ResourceList, ResourceSheet, ResourceWindows } from '../../parts/ResourcePlace'
import { TypeCode } from '../../parts/signs'
import { Sure } from '../../parts/Window'
import { useResource } from '../../parts/useResource'
import { number, share } from '../../parts/words'
import { Counting } from '../../stave/Counting'
import { Finds, type FindOutcome } from '../../stave/Finds'
import { among } from '../../stave/span'
import type { Differing } from '../../stave/StaveList'
import { RuleWhy } from '../../stave/RuleWhy'
import { type Draft, draftKey, drafts } from './drafts'
import { FragmentSheet } from './FragmentSheet'
import { fragmentsQuery, missedQuery, ruleFindsQuery, rulesQuery, takenGold } from './queries'
import { OffersSheet } from './OffersSheet'
import { RuleSheet } from './RuleSheet'
import { RuleSlots } from './RuleSlots'
import { useUndoRule } from './useUndoRule'
import { TagsHelp, WordsSheet } from './WordsSheet'

/** What stands in the place of the rule: a fragment, or the words of a sentence. */
type Held = number | 'new' | 'words' | 'offers' | null

/** Rules in their order: what each finds, and whether its own examples hold. */
export function Rules() {
  const project = useProject()
  const lead = useIsLead()
  const { types } = useScheme()
  const query = useQuery(rulesQuery(project))
  const { queryKey } = rulesQuery(project)
  // A rule is edited where it stands, so that what it finds is seen beside it.
  const [order, setOrder] = useState<Order>('in order')
  const rows = useMemo(() => query.data && sorted(query.data, order), [query.data, order])
  const rules = useResource<RuleShown, RuleShown[]>({ place: 'rules', one: 'rule', query, queryKey, rows, offers: lead ? ['add', 'delete'] : [] })
  const fragments = useQuery(fragmentsQuery(project))
  const [held, setHeld] = useState<{ fragment: Held; beside: string }>({ fragment: null, beside: '' })
  // Whoever opens a rule has left the fragment.
  const beside = `${rules.chosen?.id ?? ''} ${rules.opened ?? ''}`
  const setFragment = (fragment: Held) => setHeld({ fragment, beside })
  const shown = fragments.data?.find(({ id }) => id === held.fragment)
  const open = held.beside === beside && (held.fragment === 'new' || held.fragment === 'words' || held.fragment === 'offers' || shown) ? held.fragment : null
  // The type whose offers were looked at last.
  const [offered, setOffered] = useState('')
  // A new rule that was begun elsewhere, while another one is typed and not saved.
  const [waiting, setWaiting] = useState<Draft | null>(null)
  const openWith = (draft: Draft) => {
    drafts.set(draftKey(project), draft)
    setWaiting(null)
    setFragment(null)
    rules.open('add')
  }
  const begin = (draft: Draft) => {
    const kept = drafts.get(draftKey(project))
    if (kept && !kept.begun) setWaiting(draft)
    else openWith(draft)
  }
  useUndoRule(lead)
  const client = useQueryClient()
  const moving = useMutation({
    mutationFn: ({ rule, place }: { rule: number; place: number }) =>
      api.PUT('/api/projects/{project}/rules/{rule_id}/place', { params: { path: { project, rule_id: rule } }, body: { place } }),
    onSettled: () => client.invalidateQueries({ queryKey }),
  })
  // Where they are sorted otherwise nobody would see where one moves to.
  const at = order === 'in order' ? (query.data?.findIndex(({ id }) => id === rules.chosen?.id) ?? -1) : -1
  const move = (by: number) => {
    const place = at + by
    if (rules.chosen && at >= 0 && place >= 0 && place < (query.data?.length ?? 0)) moving.mutate({ rule: rules.chosen.id, place })
  }
  useKeys(
    [
      { keys: ['w'], caps: ['w'], label: 'words and phrases', run: () => setFragment('words') },
      ...(lead ? [{ keys: ['g'], caps: ['g'], label: 'rules from gold', run: () => setFragment('offers') }] : []),
      ...(lead && rules.chosen
      ? [
          { keys: ['shift+arrowup'], caps: ['shift', '↑'], label: 'move the rule up', run: () => move(-1), quiet: true },
          { keys: ['shift+arrowdown'], caps: ['shift', '↓'], label: 'move the rule down', run: () => move(1), quiet: true },
        ]
      : []),
    ],
  )
  return (
    <Columns
      right={
        // It may be longer than the window: whoever has no mouse scrolls it once the focus is in it.
        <Box tabIndex={0} role="region" aria-label="help">
          {open === 'words' ? <TagsHelp /> : <Help />}
        </Box>
      }
      left={
        <ResourceList
          resource={rules}
          heading="Rules"
          figure={order === 'by what each adds' ? 'adds · right' : 'finds · right'}
          above={
            <>
              <Box px="3" pb="1.5">
                <ChoiceField label="rules stand" quietLabel value={order} options={ORDERS.map((value) => ({ value, label: value }))} onChange={(value) => setOrder(value as Order)} />
              </Box>
              <Counting />
            </>
          }
          below={<Fragments fragments={fragments.data} chosen={open} onChoose={setFragment} lead={lead} />}
          height={44}
          label="rules"
          row={(rule) => <RuleRow rule={rule} adds={order === 'by what each adds'} />}
          barred={types.length === 0}
        />
      }
    >
      {open === 'words' ? (
        <Box px="6" pt="4" pb="8">
          <WordsSheet
            lead={lead}
            sentence={rules.chosen?.must_find[0] ?? ''}
            onClose={() => setFragment(null)}
            onRule={begin}
          />
        </Box>
      ) : open === 'offers' ? (
        <Box px="6" pt="4" pb="8">
          <OffersSheet type={offered} onType={setOffered} onClose={() => setFragment(null)} onRule={begin} />
        </Box>
      ) : open !== null ? (
        <Box px="6" pt="4" pb="8">
          <FragmentSheet
            key={open}
            {...(shown && { fragment: shown })}
            lead={lead}
            onDone={(made) => setFragment(made ? made.id : null)}
          />
        </Box>
      ) : rules.opened === 'add' ? (
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
              <RuleSheet key={rule.id} rule={rule} lead={lead} onDone={rules.saved} acts={
                  <>
                    <QuietAct disabled={at < 1} onClick={() => move(-1)}>
                      move up
                    </QuietAct>
                    <QuietAct disabled={at < 0 || at + 1 >= (query.data?.length ?? 0)} onClick={() => move(1)}>
                      move down
                    </QuietAct>
                    <ResourceActs resource={rules} />
                  </>
                }
              />
              {rule.judged > 0 && <RuleSlots key={`slots-${rule.id}-${rule.version}`} rule={rule.id} />}
              <RuleFinds key={`finds-${rule.id}`} rule={rule} />
            </Box>
          )}
        </ResourceSheet>
      )}
      {waiting && (
        <Sure
          title="Another new rule is not saved"
          act="replace it"
          onClose={() => setWaiting(null)}
          onSure={() => {
            openWith(waiting)
            return Promise.resolve()
          }}
        >
          What you typed for it goes. Close this, and save it first, if you want to keep it: “new rule” opens it.
        </Sure>
      )}
      <ResourceWindows
        resource={rules}
        open={rules.chosen}
        onDelete={(rule) => api.DELETE('/api/projects/{project}/rules/{rule_id}', { params: { path: { project, rule_id: rule.id } } })}
        loss={(rule) => ({ name: rule.name, says: 'The rule goes with its pattern and its examples; Ctrl Z brings it back. A rule that is switched off stays and finds nothing.' })}
      />
    </Columns>
  )
}

const ORDERS = ['in order', 'by what each adds', 'by wrong finds'] as const
type Order = (typeof ORDERS)[number]

/** Rules as they stand, or those first that matter most; equal ones as they stand. */
function sorted(rules: readonly RuleShown[], order: Order): RuleShown[] {
  if (order === 'in order') return [...rules]
  const worth = ({ alone, judged, right }: RuleShown) => (order === 'by what each adds' ? alone : judged - right)
  return [...rules].sort((one, other) => worth(other) - worth(one))
}

interface FragmentsProps {
  fragments: readonly FragmentShown[] | undefined
  chosen: Held
  onChoose: (fragment: Held) => void
  lead: boolean
}

/** The fragments, below the rules that use them. */
function Fragments({ fragments, chosen, onChoose, lead }: FragmentsProps) {
  return (
    <Box px="2.5" pt="2" pb="2" borderTopWidth="1px" borderColor="hairline">
      <Heading>Fragments</Heading>
      <Flex wrap="wrap" gap="1" columnGap="2.5" maxH="28" overflowY="auto">
        {fragments?.map((one) => (
          <LinkAct key={one.id} aria-current={one.id === chosen} fontWeight={one.id === chosen ? 'bold' : 'normal'} onClick={() => onChoose(one.id)}>
            {one.name}
          </LinkAct>
        ))}
      </Flex>
      <Flex gap="2" mt="1">
        {lead && <QuietAct onClick={() => onChoose('new')}>new fragment</QuietAct>}
        <QuietAct onClick={() => onChoose('words')}>words and phrases</QuietAct>
      </Flex>
      <Flex mt="1">
        {lead && <QuietAct onClick={() => onChoose('offers')}>rules from gold</QuietAct>}
      </Flex>
    </Box>
  )
}

function RuleRow({ rule, adds }: { rule: RuleShown; adds: boolean }) {
  const { hues } = useScheme()
  return (
    <Box px="2.5" py="1">
      <Flex justify="space-between" gap="2">
        <Box truncate color={rule.on ? 'ink' : 'second'}>
          {rule.name}
        </Box>
        <Box color="second" fontVariantNumeric="tabular-nums" whiteSpace="nowrap">
          {number(adds ? rule.alone : rule.finds)} · {share(rule.right, rule.judged)}
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
            · in trouble
          </Box>
        )}
      </Box>
    </Box>
  )
}

const LANE = ['rules', 'This rule'] as const
const TAKEN = ['rules', 'Taken away'] as const

const EVERY = ['rules', 'Rules'] as const
const why = (stave: StaveShown, span: SpanShown) => <RuleWhy sentence={stave.sentence_id} span={span} />

function RuleFinds({ rule }: { rule: RuleShown }) {
  const project = useProject()
  const { hues } = useScheme()
  const [outcome, setOutcome] = useState<FindOutcome>('')
  const missing = outcome === 'missed'
  const finds = useInfiniteQuery({ ...ruleFindsQuery(project, rule.id, outcome), enabled: !missing })
  const missed = useInfiniteQuery({ ...missedQuery(project, rule.id), enabled: missing })
  const { takes, ...counts } = rule
  const lacking = useCallback<Differing>((gold, found) => among(gold, found, true).filter(({ type }) => type === rule.type), [rule.type])
  const shown = takes ? { finds: counts.finds, right: counts.right, judged: counts.judged } : counts
  return <Finds counts={shown} outcome={outcome} onOutcome={setOutcome} query={missing ? missed : finds} lane={missing ? EVERY : takes ? TAKEN : LANE} hues={hues} why={why} differing={missing ? lacking : takes ? takenGold : undefined} />
}

const HELP: readonly (readonly [string, string])[] = [
  ["'word'", 'these letters, in any case'],
  ['"Word"', 'exactly so'],
  ['capital', 'also capitals, small, figure, code, initial, sign'],
  ['list(ports)', 'a whole name of a list'],
  ['found(VES)', 'a span that was found before'],
  ['tag(NOUN)', 'a part of speech; key w shows them'],
  ["lemma('sail')", 'any form of a word'],
  ['kind(person)', 'a word for such a thing'],
  ['like(/[A-Z]\\d+/)', 'one word, by an expression'],
  ['1 to 3 capital', 'so many; also optional, up to 3'],
  ["('a' or 'b')", 'one or the other'],
  ['capital and not …', 'both of one word'],
  ['[ … ]', 'is marked; outside is context'],
  ['[ … ] as PRT', 'marked with another type'],
  ['unless inside list(berths)', 'a condition, on a line of its own'],
  ["only if 'gale' in sentence", 'also in text, within 3 tokens'],
  ['use(weekday)', 'a fragment'],
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
          Rules are held against sentences in their order; each sees what lists and the rules before it have found. Where the
          marks of a rule overlap the longest stays. What a rule may take on a text is counted in steps; one that takes too
          many says so here, and finds nothing in that text.
        </Box>
      </Section>
    </>
  )
}
