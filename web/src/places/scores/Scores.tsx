import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'

import { api } from '../../api/client'
import { figuresQuery, useIsLead, useProject } from '../../api/project'
import type { ScorecardHead, ScorecardShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Heading, Section, Title } from '../../parts/layout'
import { ResourceActs, ResourcePlace } from '../../parts/ResourcePlace'
import { Facts } from '../../parts/signs'
import { useAct } from '../../parts/useAct'
import { useResource } from '../../parts/useResource'
import { moment, number, plural, score } from '../../parts/words'
import { StavePages } from '../../stave/StaveList'
import { Acceptance } from './Acceptance'
import { scorecardQuery, scorecardsQuery, scoredSentencesQuery } from './queries'
import { type Cell, TypeScores } from './TypeScores'

const LANES = [['gold', 'Gold'], ['found', 'Found']] as const
const OUTCOMES: Record<Cell['outcome'], string> = {
  '': 'every span',
  right: 'right',
  missed: 'missed',
  surplus: 'found, not in gold',
  gold: 'in gold',
  found: 'found',
}

export function half(card: Pick<ScorecardHead, 'f1_low' | 'f1_high'>): string {
  return card.f1_low === null || card.f1_high === null ? '' : ` ± ${score((card.f1_high - card.f1_low) / 2)}`
}

/** Frozen scorecards; every figure opens its sentences. */
export function Scores() {
  const project = useProject()
  const lead = useIsLead()
  const query = useQuery(scorecardsQuery(project))
  const { queryKey } = scorecardsQuery(project)
  const cards = useResource<ScorecardHead, ScorecardHead[]>({ place: 'scores', one: 'scorecard', query, queryKey, rows: query.data, offers: lead ? ['delete'] : [] })
  const { chosen } = cards
  const running = useQuery(figuresQuery(project)).data?.running.find((job) => job.kind === 'scoring')
  const card = useQuery({ ...scorecardQuery(project, chosen?.id ?? 0), enabled: chosen !== undefined })
  const start = useAct(() => api.POST('/api/projects/{project}/scorecards', { params: { path: { project } } }), { changes: 'scores' })
  useKeys(lead ? [{ keys: ['n'], caps: ['n'], label: 'score now', run: () => start.run() }] : [])
  const act = lead && (
    <Act onClick={() => start.run()} loading={running !== undefined || start.busy} loadingText="scoring">
      score now
    </Act>
  )
  return (
    <ResourcePlace
      resource={cards}
      heading="Scorecards"
      figure="strict span F1"
      height={46}
      label="scorecards"
      row={(head) => <CardRow head={head} />}
      act={act}
      right={card.data && chosen && <About card={card.data} />}
      empty="A scorecard holds lists, rules, the tagger and all of them together against signed test sentences, and keeps what it saw. There is none yet."
      onDelete={(head) => api.DELETE('/api/projects/{project}/scorecards/{scorecard_id}', { params: { path: { project, scorecard_id: head.id } } })}
      loss={(head) => ({
        name: head.title,
        says: `The card of ${moment(head.created_at)} goes with the ${plural(head.sentences, 'sentence')} that it keeps as they were. It cannot be measured again once gold, lists, rules or the tagger have changed.`,
      })}
    >
      {() => <Ask query={card}>{(open) => <Sheet key={open.id} card={open} acts={<ResourceActs resource={cards} />} />}</Ask>}
    </ResourcePlace>
  )
}

function CardRow({ head }: { head: ScorecardHead }) {
  return (
    <Box px="2.5" py="1">
      <Flex justify="space-between" gap="2">
        <Box truncate fontWeight="bold">
          {head.title}
        </Box>
        <Box fontVariantNumeric="tabular-nums" whiteSpace="nowrap">
          <b>{score(head.f1)}</b>
          {half(head)}
        </Box>
      </Flex>
      <Box fontSize="small" color="second">
        {moment(head.created_at)} · test · {plural(head.texts, 'text')}
        {head.learnt && ' · learnt from lists, too'}
      </Box>
    </Box>
  )
}

function Sheet({ card, acts }: { card: ScorecardShown; acts: ReactNode }) {
  const project = useProject()
  const { types, hues } = useScheme()
  const [cell, setCell] = useState<Cell>({ type: '', outcome: 'missed' })
  const sentences = useInfiniteQuery(scoredSentencesQuery(project, card.id, cell.type, cell.outcome))
  const name = cell.type === '' ? 'All types' : (types.find((t) => t.code === cell.type)?.name ?? cell.type)
  return (
    <Box px="6" pt="4" pb="8">
      <Title side={acts}>
        <Box as="span" fontSize="figure">
          F1 {score(card.f1)}
        </Box>{' '}
        <Box as="span" fontSize="ui" fontFamily="body" color="second">
          {card.title} · precision {score(card.overall.precision)} · recall {score(card.overall.recall)}
          {card.f1_low !== null && card.f1_high !== null && ` · 95 % interval ${score(card.f1_low)}–${score(card.f1_high)}`}
        </Box>
      </Title>
      {card.learnt && (
        <Box color="gold" mb="3">
          {card.learnt}
        </Box>
      )}
      <TypeScores card={card} types={types} cell={cell} onCell={setCell} />
      <Section>
        <Box fontSize="tiny" fontWeight="bold" color="second" mb="3" aria-live="polite">
          {name}, {OUTCOMES[cell.outcome]} · {sentences.data ? plural(sentences.data.pages[0]?.total ?? 0, 'sentence') : '…'}
        </Box>
        <StavePages query={sentences} lanes={LANES} hues={hues} empty="There is no such sentence." />
      </Section>
    </Box>
  )
}

function About({ card }: { card: ScorecardShown }) {
  return (
    <>
      <Heading>Measured on</Heading>
      <Facts
        facts={[
          ['split', 'test'],
          ['texts', number(card.texts)],
          ['signed sentences', number(card.sentences)],
          ['gold spans', number(card.overall.right + card.overall.missed)],
          ['found spans', number(card.overall.right + card.overall.surplus)],
          ['frozen', moment(card.created_at)],
        ]}
      />
      <Section>
        {card.changes.length > 0 ? (
          <Box color="gold">Since then {card.changes.join('; ')}.</Box>
        ) : (
          <Box color="second">Nothing that it depends on has changed since.</Box>
        )}
      </Section>
      <Acceptance />
      <Section>
        <Box color="second">
          A found span is right when its start, its end and its type are those of a gold span. The interval is a bootstrap
          over groups of texts and the texts within them. Test texts are annotated without suggestions.
        </Box>
      </Section>
    </>
  )
}
