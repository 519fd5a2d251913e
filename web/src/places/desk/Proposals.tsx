import { Box, Flex } from '@chakra-ui/react'
import { useQueryClient, type UseQueryResult } from '@tanstack/react-query'
import { memo, type ReactNode, useCallback, useMemo, useRef, useState } from 'react'

import { messageOf } from '../../api/client'
import { invalidate } from '../../api/live'
import { CodePoints } from '../../api/offsets'
import { useLanguage, useProject } from '../../api/project'
import type { AtOnceWish, ProposalPage, ProposalShown, SpanShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, CheckField, LinkAct, QuietAct } from '../../parts/controls'
import { tell } from '../../parts/notes'
import { Window } from '../../parts/Window'
import { number, plural } from '../../parts/words'
import { differences, goldLane, type Lane, otherLane } from '../../stave/span'
import { Stave } from '../../stave/Stave'
import { changedPlaces, keyOf, withLeftOut } from './changedPlaces'
import { flush, useOutbox } from './outbox'
import { catchUp, changeAtOnce } from './queries'
import { record } from './trail'

interface ProposalsProps {
  title: string
  kind: AtOnceWish['kind']
  query: UseQueryResult<ProposalPage>
  hues: ReadonlyMap<string, number>
  /** What nothing to change means. */
  nothing: string
  onClose: () => void
}

const STEP = 50
const NONE: ReadonlySet<string> = new Set()
const NO_SPANS: SpanShown[] = []
const NO_PROPOSALS: ProposalShown[] = []

type Left = ReadonlyMap<number, ReadonlySet<string>>

const keysOf = ({ stave, then }: ProposalShown) => changedPlaces(stave.lanes['now'] ?? [], then).map(keyOf)

/** Changes to many sentences, looked through one by one before they are made at once. */
export function Proposals({ title, kind, query, hues, nothing, onClose }: ProposalsProps) {
  const project = useProject()
  const client = useQueryClient()
  // By sentence, the places that stay as they are.
  const [left, setLeft] = useState<Left>(new Map())
  // Names the act, so that one sent twice is done once.
  const token = useRef(crypto.randomUUID())
  const [count, setCount] = useState(STEP)
  const [error, setError] = useState('')
  const [busy, setBusy] = useState(false)
  const [read, setRead] = useState(false)
  const page = query.data
  const proposals = page?.proposals ?? NO_PROPOSALS
  const wanted = proposals.filter((p) => keysOf(p).some((key) => !left.get(p.stave.sentence_id)?.has(key)))
  const signed = wanted.filter((p) => p.stave.signed).length
  const leave = useCallback((id: number, keys: ReadonlySet<string>) => setLeft((old) => new Map(old).set(id, keys)), [])
  const make = async () => {
    setBusy(true)
    setError('')
    const places = wanted.map(({ stave, version, then }) => ({
      sentence_id: stave.sentence_id,
      version,
      spans: withLeftOut(stave.lanes['now'] ?? [], then, left.get(stave.sentence_id) ?? NONE).map(({ start, end, type }) => ({ start, end, type })),
    }))
    try {
      // What was done before comes before it in the log too.
      if (useOutbox.getState().line !== 'open') throw new Error('The server does not take acts at the moment; nothing was changed. Try again later.')
      await flush()
      const { sentences } = await changeAtOnce(project, { kind, places, looked_through: read && signed > 0, token: token.current })
      record(project, null)
      invalidate(client, project, 'desk')
      await catchUp(client, project)
      tell(`Changed in ${plural(sentences, 'sentence')}; ctrl and z undo that.`)
      onClose()
    } catch (fault) {
      setError(messageOf(fault))
      token.current = crypto.randomUUID()
      // Some of them have been changed by others, perhaps: what is shown next is what stands now.
      void query.refetch()
    } finally {
      setBusy(false)
    }
  }
  return (
    <Window
      title={title}
      wide
      stays
      onClose={onClose}
      footer={
        <>
          {error && (
            <Box color="bad" role="alert" flex="1">
              {error}
            </Box>
          )}
          {signed > 0 && !error && (
            <Box flex="1" title="Without it they are begun, and have to be signed again.">
              <CheckField
                label={`I have read the ${plural(signed, 'signed sentence')}; sign ${signed === 1 ? 'it' : 'them'} again in my name`}
                checked={read}
                onChange={setRead}
              />
            </Box>
          )}
          <QuietAct onClick={onClose}>cancel</QuietAct>
          <Act onClick={() => void make()} disabled={wanted.length === 0} loading={busy}>
            change {plural(wanted.length, 'sentence')}
          </Act>
        </>
      }
    >
      {!page ? (
        <Ask query={query}>{() => null}</Ask>
      ) : proposals.length === 0 ? (
        <Box color="second" pb="2">
          {nothing}
        </Box>
      ) : (
        <>
          <Flex justify="space-between" color="second" fontSize="small" mb="2">
            <span>
              {number(wanted.length)} of {plural(proposals.length, 'sentence')} chosen
              {page.total > proposals.length && `, the first of ${number(page.total)}: the others come when these are done`}
            </span>
            <Flex gap="3">
              <LinkAct onClick={() => setLeft(new Map())}>choose all</LinkAct>
              <LinkAct onClick={() => setLeft(new Map(proposals.map((p) => [p.stave.sentence_id, new Set(keysOf(p))])))}>choose none</LinkAct>
            </Flex>
          </Flex>
          {proposals.slice(0, count).map((proposal) => (
            <Proposal key={proposal.stave.sentence_id} proposal={proposal} left={left.get(proposal.stave.sentence_id) ?? NONE} hues={hues} onLeave={leave} />
          ))}
          {proposals.length > count && <LinkAct onClick={() => setCount(count + STEP)}>show {plural(Math.min(STEP, proposals.length - count), 'sentence')} more</LinkAct>}
        </>
      )}
    </Window>
  )
}

interface ProposalProps {
  proposal: ProposalShown
  left: ReadonlySet<string>
  hues: ReadonlyMap<string, number>
  onLeave: (sentence: number, keys: ReadonlySet<string>) => void
}

const Proposal = memo(function Proposal({ proposal: { stave, then: whole }, left, hues, onLeave }: ProposalProps) {
  const now = stave.lanes['now'] ?? NO_SPANS
  const then = useMemo(() => withLeftOut(now, whole, left), [now, whole, left])
  const lanes = useMemo(
    (): Lane[] => [
      otherLane('now', 'Now', now),
      goldLane(then, { id: 'then', label: 'Then' }),
    ],
    [now, then],
  )
  const differing = useMemo(() => differences(now, then), [now, then])
  const places = changedPlaces(now, whole)
  const keys = places.map(keyOf)
  const chosen = keys.filter((key) => !left.has(key)).length
  const leaveAll = () => onLeave(stave.sentence_id, new Set(chosen > 0 ? keys : []))
  const leaveOne = (key: string) => {
    const fresh = new Set(left)
    if (!fresh.delete(key)) fresh.add(key)
    onLeave(stave.sentence_id, fresh)
  }
  const points = new CodePoints(stave.words, stave.start)
  return (
    <Box mb="1" opacity={chosen > 0 ? 1 : 0.55} style={{ contentVisibility: 'auto', containIntrinsicSize: 'auto 100px' }}>
      <Flex columnGap="4" wrap="wrap" ml="laneLabel" fontSize="small" color="second">
        <Chosen checked={chosen > 0} mixed={chosen > 0 && chosen < keys.length} onChange={leaveAll}>
          {stave.title} · sentence {stave.number + 1}
          {stave.signed ? ' · signed' : ''}
        </Chosen>
        {places.length > 1 &&
          places.map((place, i) => (
            <Chosen key={keyOf(place)} checked={!left.has(keyOf(place))} onChange={() => leaveOne(keyOf(place))}>
              {i + 1}. {points.slice(place.start, place.end)}
            </Chosen>
          ))}
      </Flex>
      <Stave words={stave.words} start={stave.start} tokens={stave.tokens} lang={useLanguage()} lanes={lanes} differing={differing} hues={hues} />
    </Box>
  )
})

function Chosen({ checked, mixed = false, onChange, children }: { checked: boolean; mixed?: boolean; onChange: () => void; children: ReactNode }) {
  return (
    <Flex asChild align="center" gap="2">
      <label>
        <input
          type="checkbox"
          checked={checked}
          ref={(box) => {
            if (box) box.indeterminate = mixed
          }}
          onChange={onChange}
        />
        <span>{children}</span>
      </label>
    </Flex>
  )
}
