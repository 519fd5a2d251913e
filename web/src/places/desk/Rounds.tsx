import { Box, Flex, Grid } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { invalidate } from '../../api/live'
import { useIsLead, useProject } from '../../api/project'
import type { RoundShown, RoundsShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, LinkAct } from '../../parts/controls'
import { Meter } from '../../parts/signs'
import { useAct } from '../../parts/useAct'
import { Sure, Window } from '../../parts/Window'
import { number, plural } from '../../parts/words'
import { type Passage, roundsQuery } from './queries'
import { RoundForm, wishOf } from './RoundForm'

interface RoundsProps {
  /** What is gone through, and in which round. */
  passage: Passage
  onChoose: (round: number | null) => void
  onClose: () => void
}

type Opened = { form: RoundShown | null } | { gone: RoundShown } | null

/** Portions of the work: how far each has come, and, for leads, their making and ending. */
export function Rounds(props: RoundsProps) {
  const project = useProject()
  const query = useQuery({ ...roundsQuery(project), refetchOnMount: 'always' })
  const isLead = useIsLead()
  const [opened, setOpened] = useState<Opened>(null)
  const back = () => setOpened(null)
  if (opened && 'form' in opened && query.data) {
    return <RoundForm round={opened.form} people={query.data.people} passage={props.passage} onClose={back} />
  }
  if (opened && 'gone' in opened) return <Delete round={opened.gone} onClose={back} />
  return (
    <Window
      title="Rounds"
      wide
      onClose={props.onClose}
      footer={isLead && <Act onClick={() => setOpened({ form: null })}>new round</Act>}
    >
      <Box color="second" fontSize="small" mb="3">
        A round is a portion of the texts that is annotated together: by whom, how urgently, and with suggestions or without.
      </Box>
      <Ask query={query}>
        {(data: RoundsShown) =>
          data.rounds.length === 0 ? (
            <Box pb="3">There is no round yet. {isLead ? 'A new one takes its texts from the queue, as it is listed at the left.' : 'A lead makes them.'}</Box>
          ) : (
            data.rounds.map((round) => <OneRound key={round.id} round={round} isLead={isLead} onOpen={setOpened} {...props} />)
          )
        }
      </Ask>
    </Window>
  )
}

interface OneRoundProps extends RoundsProps {
  round: RoundShown
  isLead: boolean
  onOpen: (opened: Opened) => void
}

function OneRound({ round, isLead, passage, onChoose, onClose, onOpen }: OneRoundProps) {
  const project = useProject()
  const isChosen = round.id === passage.round
  const choose = () => {
    onChoose(isChosen ? null : round.id)
    onClose()
  }
  const toggle = useAct(
    () =>
      api.PUT('/api/projects/{project}/desk/rounds/{round_id}', {
        params: { path: { project, round_id: round.id } },
        body: { ...wishOf(round), open: !round.open, version: round.version },
      }),
    { changes: 'rounds' },
  )
  return (
    <Grid as="section" aria-label={round.name} templateColumns="1fr var(--chakra-sizes-right)" gap="6" borderTopWidth="1px" borderColor="hairline" py="2.5">
      <Box minW="0">
        <Box>
          <Box as="h2" display="inline" fontWeight="bold" fontSize="inherit">
            {round.name}
          </Box>
          <Box as="span" color="second" fontSize="small" ml="2">
            {round.open ? `priority ${round.priority}` : 'ended'} · {round.suggestions ? 'with suggestions' : 'without suggestions'} ·{' '}
            {round.people.length === 0 ? 'for everybody' : `for ${round.people.map(({ name }) => name).join(', ')}`}
          </Box>
        </Box>
        {round.note && (
          <Box fontSize="small" whiteSpace="pre-line">
            {round.note}
          </Box>
        )}
        <Flex gap="4" mt="1" fontSize="small">
          <LinkAct onClick={choose}>{isChosen ? 'stop working in it' : 'work in it'}</LinkAct>
          {isLead && (
            <>
              <LinkAct onClick={() => onOpen({ form: round })}>edit</LinkAct>
              <LinkAct loading={toggle.busy} onClick={() => toggle.run()}>
                {round.open ? 'close round' : 'reopen round'}
              </LinkAct>
              <LinkAct onClick={() => onOpen({ gone: round })}>delete</LinkAct>
            </>
          )}
        </Flex>
      </Box>
      <Box fontSize="small" color="second">
        <Meter done={round.signed} all={round.sentences} label={`signed sentences of ${round.name}`} gold />
        <Box mt="1">
          {number(round.signed)} of {plural(round.sentences, 'sentence')} signed
        </Box>
        <Box>
          {plural(round.texts, 'text')} · {number(round.empty)} empty · {number(round.asked)} with a question
        </Box>
      </Box>
    </Grid>
  )
}

function Delete({ round, onClose }: { round: RoundShown; onClose: () => void }) {
  const project = useProject()
  const client = useQueryClient()
  const remove = async () => {
    await api.DELETE('/api/projects/{project}/desk/rounds/{round_id}', { params: { path: { project, round_id: round.id } } })
    invalidate(client, project, 'rounds')
  }
  return (
    <Sure title={`Delete the round ${round.name}?`} act="delete the round" onClose={onClose} onSure={remove}>
      Its name, note and choice of {plural(round.texts, 'text')} are lost. The texts stay, and with them all that was marked and signed.
    </Sure>
  )
}
