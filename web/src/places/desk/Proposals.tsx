import { Box, Flex } from '@chakra-ui/react'
import { useQueryClient, type UseQueryResult } from '@tanstack/react-query'
import { memo, useCallback, useMemo, useState } from 'react'

import { messageOf } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import type { AtOnceWish, ProposalPage, ProposalShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, LinkAct, QuietAct } from '../../parts/controls'
import { tell } from '../../parts/notes'
import { Window } from '../../parts/Window'
import { number, plural } from '../../parts/words'
import { differences, type Lane } from '../../stave/layout'
import { Stave } from '../../stave/Stave'
import { catchUp, changeAtOnce } from './queries'

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

/** Changes to many sentences, looked through one by one before they are made at once. */
export function Proposals(props: ProposalsProps) {
  const { query, title, onClose } = props
  if (query.data) return <Looked {...props} page={query.data} />
  return (
    <Window title={title} onClose={onClose} stays>
      <Ask query={query}>{() => null}</Ask>
    </Window>
  )
}

function Looked({ title, kind, query, page, hues, nothing, onClose }: ProposalsProps & { page: ProposalPage }) {
  const project = useProject()
  const client = useQueryClient()
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set())
  const [count, setCount] = useState(STEP)
  const [error, setError] = useState('')
  const [busy, setBusy] = useState(false)
  const { proposals } = page
  const wanted = proposals.filter((p) => !left.has(p.stave.sentence_id))
  const toggle = useCallback((id: number) => {
    setLeft((old) => {
      const fresh = new Set(old)
      if (!fresh.delete(id)) fresh.add(id)
      return fresh
    })
  }, [])
  const make = async () => {
    setBusy(true)
    setError('')
    const places = wanted.map(({ stave, version, then }) => ({
      sentence_id: stave.sentence_id,
      version,
      spans: then.map(({ start, end, type }) => ({ start, end, type })),
    }))
    try {
      const { sentences } = await changeAtOnce(project, { kind, places })
      invalidate(client, project, 'desk')
      await catchUp(client, project)
      tell(`Changed in ${plural(sentences, 'sentence')}; ctrl and z take that back.`)
      onClose()
    } catch (fault) {
      setError(messageOf(fault))
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
          <QuietAct onClick={onClose}>leave all as it is</QuietAct>
          <Act onClick={() => void make()} disabled={wanted.length === 0} loading={busy}>
            change {plural(wanted.length, 'sentence')}
          </Act>
        </>
      }
    >
      {proposals.length === 0 ? (
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
              <LinkAct onClick={() => setLeft(new Set())}>choose all</LinkAct>
              <LinkAct onClick={() => setLeft(new Set(proposals.map((p) => p.stave.sentence_id)))}>choose none</LinkAct>
            </Flex>
          </Flex>
          {proposals.slice(0, count).map((proposal) => (
            <Proposal key={proposal.stave.sentence_id} proposal={proposal} chosen={!left.has(proposal.stave.sentence_id)} hues={hues} onToggle={toggle} />
          ))}
          {proposals.length > count && <LinkAct onClick={() => setCount(count + STEP)}>show {plural(Math.min(STEP, proposals.length - count), 'sentence')} more</LinkAct>}
        </>
      )}
    </Window>
  )
}

interface ProposalProps {
  proposal: ProposalShown
  chosen: boolean
  hues: ReadonlyMap<string, number>
  onToggle: (sentence: number) => void
}

const Proposal = memo(function Proposal({ proposal: { stave }, chosen, hues, onToggle }: ProposalProps) {
  const lanes = useMemo(
    (): Lane[] => [
      { name: 'now', label: 'Now', kind: 'evidence', spans: stave.lanes['now'] ?? [] },
      { name: 'then', label: 'Then', kind: 'gold', spans: stave.lanes['then'] ?? [] },
    ],
    [stave],
  )
  const differing = useMemo(() => differences(stave.lanes['now'] ?? [], stave.lanes['then'] ?? []), [stave])
  return (
    <Box mb="1" opacity={chosen ? 1 : 0.55} style={{ contentVisibility: 'auto', containIntrinsicSize: 'auto 100px' }}>
      <Flex asChild align="center" gap="2" ml="laneLabel" fontSize="small" color="second">
        <label>
          <input type="checkbox" checked={chosen} onChange={() => onToggle(stave.sentence_id)} />
          {stave.title} · sentence {stave.number + 1}
          {stave.signed ? ' · signed' : ''}
        </label>
      </Flex>
      <Stave words={stave.words} start={stave.start} tokens={stave.tokens} lanes={lanes} differing={differing} hues={hues} />
    </Box>
  )
})
