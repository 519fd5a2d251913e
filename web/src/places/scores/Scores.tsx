import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { figuresQuery, useIsLead, useProject } from '../../api/project'
import type { ScorecardHead, ScorecardShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Empty, Heading, Section, Title } from '../../parts/layout'
import { tellError } from '../../parts/notes'
import { RowList } from '../../parts/RowList'
import { Facts } from '../../parts/signs'
import { usePick } from '../../parts/usePick'
import { Sure } from '../../parts/Window'
import { moment, number, plural, score } from '../../parts/words'
import { StaveList } from '../../stave/StaveList'
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
  const { chosen, pick } = usePick('scores', query.data, 'scorecard')
  const running = useQuery(figuresQuery(project)).data?.running.find((job) => job.kind === 'scoring')
  const [removing, setRemoving] = useState(false)
  const card = useQuery({ ...scorecardQuery(project, chosen?.id ?? 0), enabled: chosen !== undefined })
  const start = async () => {
    try {
      await api.POST('/api/projects/{project}/scorecards', { params: { path: { project } } })
    } catch (error) {
      tellError(error)
    }
  }
  useKeys(lead ? [{ keys: ['n'], caps: ['n'], label: 'score now', run: () => void start() }] : [])
  const act = lead && (
    <Act onClick={() => void start()} loading={running !== undefined} loadingText="scoring">
      score now
    </Act>
  )
  const left = (
    <>
      <Box px="3" pt="3">
        <Heading side={<Box fontSize="tiny" color="second">strict span F1</Box>}>Scorecards</Heading>
      </Box>
      <RowList rows={query.data ?? []} keyOf={(c) => c.id} chosen={chosen?.id ?? null} onChoose={pick} height={46} label="scorecards">
        {(head) => (
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
            </Box>
          </Box>
        )}
      </RowList>
      {lead && (
        <Box p="3" borderTopWidth="1px" borderColor="hairline">
          {act}
        </Box>
      )}
    </>
  )
  return (
    <Columns left={left} right={card.data && chosen && <About card={card.data} />}>
      {chosen ? (
        <Ask query={card}>{(open) => <Sheet key={open.id} card={open} lead={lead} onRemove={() => setRemoving(true)} />}</Ask>
      ) : (
        query.isSuccess && (
          <Empty act={act}>
            A scorecard holds lists, rules, the tagger and all of them together against signed test sentences, and keeps what
            it saw. There is none yet.
          </Empty>
        )
      )}
      {removing && chosen && (
        <Sure
          title={`Remove the scorecard “${chosen.title}”?`}
          act="remove"
          onClose={() => setRemoving(false)}
          onSure={async () => {
            await api.DELETE('/api/projects/{project}/scorecards/{scorecard_id}', { params: { path: { project, scorecard_id: chosen.id } } })
            pick(null)
          }}
        >
          The card of {moment(chosen.created_at)} goes with the {plural(chosen.sentences, 'sentence')} that it keeps as they
          were. It cannot be measured again once gold, lists, rules or the tagger have changed.
        </Sure>
      )}
    </Columns>
  )
}

function Sheet({ card, lead, onRemove }: { card: ScorecardShown; lead: boolean; onRemove: () => void }) {
  const project = useProject()
  const { types, hues } = useScheme()
  const [cell, setCell] = useState<Cell>({ type: '', outcome: 'missed' })
  const sentences = useQuery(scoredSentencesQuery(project, card.id, cell.type, cell.outcome))
  const name = cell.type === '' ? 'All types' : (types.find((t) => t.code === cell.type)?.name ?? cell.type)
  return (
    <Box px="6" pt="4" pb="8">
      <Title side={lead && <QuietAct onClick={onRemove}>remove</QuietAct>}>
        <Box as="span" fontSize="figure">
          F1 {score(card.f1)}
        </Box>{' '}
        <Box as="span" fontSize="ui" fontFamily="body" color="second">
          {card.title} · precision {score(card.overall.precision)} · recall {score(card.overall.recall)}
          {card.f1_low !== null && card.f1_high !== null && ` · 95 % interval ${score(card.f1_low)}–${score(card.f1_high)}`}
        </Box>
      </Title>
      <TypeScores card={card} types={types} cell={cell} onCell={setCell} />
      <Section>
        <Box fontSize="tiny" fontWeight="bold" color="second" mb="3" aria-live="polite">
          {name}, {OUTCOMES[cell.outcome]} · {sentences.data ? plural(sentences.data.total, 'sentence') : '…'}
        </Box>
        <Ask query={sentences}>{(page) => <StaveList page={page} lanes={LANES} hues={hues} empty="There is no such sentence." />}</Ask>
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
