import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { memo, useCallback, useState } from 'react'
import { useNavigate } from 'react-router'

import { useMayAnnotate, useProject } from '../../api/project'
import type { QueueItemShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { ChoiceField, LinkAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { later } from '../../parts/later'
import { RowList } from '../../parts/RowList'
import { Meter, StateSign } from '../../parts/signs'
import { number, percent, plural } from '../../parts/words'
import { type By, type Order, paceQuery, type Passage, roundsQuery, type Show } from './queries'
import { describe, meansGold } from './search'
import type { Queue } from './useQueue'

const Correct = later(async () => (await import('./Correct')).Correct)
const Rounds = later(async () => (await import('./Rounds')).Rounds)
const TakeOver = later(async () => (await import('./TakeOver')).TakeOver)
const SearchWindow = later(async () => (await import('./SearchWindow')).SearchWindow)

const SPLITS = [
  { value: '', label: 'all texts' },
  { value: 'train', label: 'train' },
  { value: 'dev', label: 'dev' },
  { value: 'test', label: 'test' },
  { value: 'none', label: 'no split' },
]
const ORDERS: readonly { value: By; label: string }[] = [
  { value: 'reading', label: 'in reading order' },
  { value: 'disputes', label: 'most disagreement first' },
  { value: 'doubt', label: 'least certain first' },
  { value: 'novelty', label: 'least like what is signed' },
  { value: 'random', label: 'at random' },
]
const SHOWS: readonly { value: Show; label: string }[] = [
  { value: 'all', label: 'every sentence' },
  { value: 'open', label: 'unsigned ones' },
  { value: 'asked', label: 'those with a question' },
]

interface DeskQueueProps {
  queue: Queue
  passage: Passage
  onPassage: (passage: Passage) => void
}

/** What there is to go through. */
export function DeskQueue({ queue, passage, onPassage }: DeskQueueProps) {
  const project = useProject()
  const navigate = useNavigate()
  const { items, rest, chosen, counts } = queue
  const { by } = passage.order
  const [open, setOpen] = useState(false)
  const openRounds = useCallback(() => setOpen(true), [])
  return (
    <>
      <Box px="3" pt="3" pb="1" borderBottomWidth="1px" borderColor="hairline">
        <RoundChoice passage={passage} onPassage={onPassage} onOpen={openRounds} />
        <Progress total={counts.total} signed={counts.signed} empty={counts.empty} asked={counts.asked} />
        <PassageChoice passage={passage} onPassage={onPassage} />
      </Box>
      <RowList
        rows={items}
        keyOf={(item) => item.id}
        chosen={chosen}
        onChoose={(item) => void navigate(`/p/${project}/desk/${item.id}`)}
        height={27}
        even
        label="sentences"
        rest={rest}
        passing={queue.query.isPlaceholderData}
      >
        {(item, isChosen) => <QueueRow item={item} isChosen={isChosen} by={by} />}
      </RowList>
      {open && (
        <Rounds
          passage={passage}
          onChoose={(round) => onPassage({ ...passage, round })}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  )
}

/** Which round is worked in. */
const RoundChoice = memo(function RoundChoice({ passage, onPassage, onOpen }: Pick<DeskQueueProps, 'passage' | 'onPassage'> & { onOpen: () => void }) {
  const rounds = useQuery(roundsQuery(useProject())).data?.rounds ?? []
  useKeys([{ keys: ['&'], caps: ['&'], label: 'rounds', topic: 'Look', run: onOpen, quiet: true }])
  const choose = (round: number | null) => onPassage({ ...passage, round })
  const chosen = rounds.find(({ id }) => id === passage.round)
  const listed = rounds.filter((round) => round.open || round === chosen)
  const options = [
    { value: '', label: 'no round: the whole project' },
    ...listed.map(({ id, name }) => ({ value: String(id), label: name })),
  ]
  return (
    <>
      <Flex gap="2" align="baseline" justify="space-between">
        {listed.length > 0 && (
          <Box flex="1" minW="0">
            <ChoiceField quietLabel label="round" value={String(passage.round ?? '')} onChange={(value) => choose(value === '' ? null : Number(value))} options={options} />
          </Box>
        )}
        <LinkAct fontSize="small" mb="1.5" onClick={onOpen}>
          rounds
        </LinkAct>
      </Flex>
      {chosen?.note && (
        <Box fontSize="small" lineClamp="3" mb="1.5" title={chosen.note}>
          {chosen.note}
        </Box>
      )}
    </>
  )
})

/** Turns rise, so that an order that is asked for again is made anew. */
const now = () => Date.now()

const PassageChoice = memo(function PassageChoice({ passage, onPassage }: Pick<DeskQueueProps, 'passage' | 'onPassage'>) {
  const { split, order, show } = passage
  const project = useProject()
  const navigate = useNavigate()
  const reorder = (change: Partial<Order>) => onPassage({ ...passage, order: { ...order, ...change } })
  const choose = (by: By) => {
    // Whoever asks what to look at first means what is still to be signed.
    const wanted = by !== 'reading' && order.by === 'reading' && show === 'all' ? 'open' : show
    onPassage({ ...passage, show: wanted, order: { ...order, by, turn: now() } })
    if (by !== 'reading') toFirst()
  }
  // To the first sentence in that order that is not signed.
  const toFirst = () => void navigate(`/p/${project}/desk`)
  const orderAnew = () => {
    reorder({ turn: now() })
    toFirst()
  }
  return (
    <>
      <ChoiceField quietLabel label="order" value={order.by} onChange={(by) => choose(by as By)} options={ORDERS} />
      {order.by === 'random' && (
        <TextField
          label="seed: the same number gives the same order"
          type="number"
          value={String(order.seed)}
          onChange={(seed) => reorder({ seed: Math.trunc(Number(seed)) || 0 })}
        />
      )}
      <Flex gap="2" css={{ '& > *': { flex: '1', minWidth: '0' } }}>
        <ChoiceField quietLabel label="texts" value={split} onChange={(wanted) => onPassage({ ...passage, split: wanted })} options={SPLITS} />
        <ChoiceField quietLabel label="show" value={show} onChange={(wanted) => onPassage({ ...passage, show: wanted as Show })} options={SHOWS} />
      </Flex>
      <SearchLine passage={passage} onOrder={(wanted) => onPassage({ ...passage, order: wanted })} />
      {order.by !== 'reading' && order.by !== 'random' && (
        <Box fontSize="tiny" color="second" mb="1.5">
          The order stays as it was made. <LinkAct onClick={orderAnew}>refresh the order</LinkAct>
        </Box>
      )}
    </>
  )
})

/** What is searched for, and what can be done with what is found. */
function SearchLine({ passage, onOrder }: { passage: Passage; onOrder: (order: Order) => void }) {
  const { types, hues } = useScheme()
  const annotates = useMayAnnotate()
  const [open, setOpen] = useState<'search' | 'correct' | 'layer' | null>(null)
  const { order } = passage
  const { search } = order
  useKeys([{ keys: ['#'], caps: ['#'], label: 'search sentences', topic: 'Look', run: () => setOpen('search'), quiet: true }])
  const close = () => setOpen(null)
  return (
    <Box fontSize="small" mb="1.5">
      {search ? (
        <>
          <Box mb="0.5">Found: {describe(search, types)}</Box>
          <Flex gap="3" wrap="wrap">
            <LinkAct onClick={() => setOpen('search')}>search again</LinkAct>
            {meansGold(search) && <LinkAct onClick={() => setOpen('correct')}>correct them</LinkAct>}
            <LinkAct onClick={() => onOrder({ ...order, search: null })}>show all</LinkAct>
          </Flex>
        </>
      ) : (
        <Flex gap="3" wrap="wrap">
          <LinkAct onClick={() => setOpen('search')}>search sentences</LinkAct>
          {annotates && <LinkAct onClick={() => setOpen('layer')}>take over a layer</LinkAct>}
        </Flex>
      )}
      {open === 'layer' && <TakeOver hues={hues} onClose={close} />}
      {open === 'search' && <SearchWindow search={search} passage={passage} types={types} onClose={close} onSearch={onOrder} />}
      {open === 'correct' && search && <Correct search={search} portion={{ split: passage.split, round: passage.round }} types={types} hues={hues} onClose={close} />}
    </Box>
  )
}

interface ProgressProps {
  total: number
  signed: number
  empty: number
  asked: number
}

const Progress = memo(function Progress({ total, signed, empty, asked }: ProgressProps) {
  const project = useProject()
  const seconds = useQuery(paceQuery(project)).data?.seconds ?? null
  return (
    <Box fontSize="small" color="second" mb="2">
      <Meter done={signed} all={total} label="signed sentences" gold />
      <Flex justify="space-between" mt="1">
        <span>
          {number(signed)} of {number(total)} signed
        </span>
        <span>{plural(total - signed, 'sentence')} left</span>
      </Flex>
      <div>
        {number(empty)} empty · {number(asked)} with a question
      </div>
      {seconds !== null && (
        <Flex justify="space-between" title="by your last 50 signings, pauses left out">
          <span>{plural(Math.round(3600 / seconds), 'sentence')} an hour</span>
          {total > signed && <span>{left((total - signed) * seconds)} left</span>}
        </Flex>
      )}
    </Box>
  )
})

/** A stretch of time as one would say it. */
function left(seconds: number): string {
  const minutes = Math.max(1, Math.round(seconds / 60))
  return minutes < 90 ? `about ${minutes} min` : `about ${Math.round(minutes / 60)} h`
}

/** What the order goes by, beside a sentence. */
function worth(by: By, value: number | null): string {
  if (value === null || value === 0) return ''
  if (by === 'disputes') return plural(value, 'gap')
  return by === 'doubt' ? `${value.toPrecision(2)} bit` : `${percent(value, 1)} new`
}

// Rows come again with every act; those whose sentence is as before need no drawing.
const QueueRow = memo(function QueueRow({ item, isChosen, by }: { item: QueueItemShown; isChosen: boolean; by: By }) {
  const said = worth(by, item.worth)
  const open = item.state !== 'signed'
  return (
    <div className="queueRow" style={open || isChosen ? undefined : { color: 'var(--chakra-colors-second)' }}>
      <StateSign state={item.state} />
      <div className="words">
        {(item.number === 0 || by !== 'reading') && <b>{item.title}</b>}
        {item.words}
      </div>
      <div className={item.asked || (said && open && by === 'disputes') ? 'said bad' : 'said'}>
        {item.asked ? 'asked' : !open && item.spans === 0 ? 'empty' : open && said ? said : item.spans > 0 ? item.spans : ''}
      </div>
    </div>
  )
})
