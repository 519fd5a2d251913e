import { Box, Flex, Grid, Table } from '@chakra-ui/react'
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { Fragment, type ReactNode, useDeferredValue, useState } from 'react'
import { Link } from 'react-router'

import { api, body, messageOf, ProblemError } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { SplitsShown, SplitsWish, TextActShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, CheckField, LinkAct, QuietAct, TextField } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { TypeCode } from '../../parts/signs'
import { useScheme } from '../../api/useScheme'
import { useAct } from '../../parts/useAct'
import { Window } from '../../parts/Window'
import { number, percent, plural } from '../../parts/words'
import { draftQuery, splitsQuery } from './queries'

const PARTS = ['train', 'dev', 'test'] as const

/** How texts are split and what leaks from one split into another; and how they could be split. */
export function SplitsWindow({ onClose, onDone }: { onClose: () => void; onDone: (act: TextActShown) => void }) {
  const project = useProject()
  const lead = useIsLead()
  const [drafting, setDrafting] = useState(false)
  const [shares, setShares] = useState({ train: '80', dev: '10', test: '10' })
  const [seed, setSeed] = useState('1')
  const [keep, setKeep] = useState(false)
  const wish = wishFrom(shares, seed, keep)
  // A digit more is not waited for.
  const asked = useDeferredValue(wish === null ? null : JSON.stringify(wish))
  const now = useQuery(splitsQuery(project))
  const draft = useQuery({
    ...draftQuery(project, asked === null ? NO_WISH : (JSON.parse(asked) as SplitsWish)),
    enabled: drafting && asked !== null,
    placeholderData: keepPreviousData,
  })
  const look = useAct(() => body(api.POST('/api/projects/{project}/texts/splits/likeness', { params: { path: { project } } })), { changes: 'texts' })
  const assign = useMutation({
    mutationFn: (digest: string) => {
      if (wish === null) throw new Error('The shares are not numbers.')
      return body(api.POST('/api/projects/{project}/texts/splits', { params: { path: { project } }, body: { ...wish, digest } }))
    },
    onSuccess: (act) => {
      onDone(act)
      onClose()
    },
  })
  const shown = drafting ? draft : now
  const fault = draft.error instanceof ProblemError ? draft.error : null
  const ready = drafting && draft.data !== undefined && !draft.isPlaceholderData && !draft.isError && wish !== null && asked === JSON.stringify(wish)
  return (
    <Window
      title="Splits"
      wide
      stays
      onClose={onClose}
      footer={
        <>
          <QuietAct onClick={onClose}>close</QuietAct>
          {lead && !drafting && <Act onClick={() => setDrafting(true)}>split anew</Act>}
          {drafting && (
            <Act disabled={!ready || draft.data.moved === 0} loading={assign.isPending} onClick={() => draft.data && assign.mutate(draft.data.digest)}>
              {draft.data ? `move ${plural(draft.data.moved, 'text')}` : 'move'}
            </Act>
          )}
        </>
      }
    >
      {drafting && (
        <>
          <Box color="second" mb="2">
            Texts of a group stay together, and so do those that are nearly the same. Types are shared out evenly as far as that goes. The table
            shows what would come of it; nothing is changed yet.
          </Box>
          <Grid templateColumns="repeat(4, 1fr)" gap="3" alignItems="start">
            {PARTS.map((part) => (
              <TextField
                key={part}
                label={`${part}, %`}
                value={shares[part]}
                error={fault?.field === part ? messageOf(fault) : numberIn(shares[part]) === null ? 'a number from 0 to 100' : undefined}
                onChange={(value) => setShares({ ...shares, [part]: value })}
              />
            ))}
            <TextField label="seed" value={seed} help="draws what is even" error={/^\d{1,9}$/.test(seed) ? undefined : 'a whole number'} onChange={setSeed} />
          </Grid>
          <Box mb="3">
            <CheckField label="texts that have a split keep it" checked={keep} onChange={setKeep} />
          </Box>
        </>
      )}
      {fault?.field == null && <Ask query={shown}>{(splits) => <Told splits={splits} busy={drafting && draft.isPlaceholderData} look={lead && <Looking splits={splits} busy={look.busy} onLook={() => look.run()} />} />}</Ask>}
      {assign.error && (
        <Box color="bad" role="alert" mt="2">
          {messageOf(assign.error)}
        </Box>
      )}
    </Window>
  )
}

// Of a sentence that stands in two splits.
const LONGEST = 160
const NO_WISH: SplitsWish = { train: 0, dev: 0, test: 0, seed: 1, keep: false }

function numberIn(words: string): number | null {
  return /^\s*\d{1,3}([.,]\d{1,3})?\s*$/.test(words) && Number(words.replace(',', '.')) <= 100 ? Number(words.replace(',', '.')) : null
}

function wishFrom(shares: Record<(typeof PARTS)[number], string>, seed: string, keep: boolean): SplitsWish | null {
  const [train, dev, test] = PARTS.map((part) => numberIn(shares[part]))
  return train == null || dev == null || test == null || !/^\d{1,9}$/.test(seed) ? null : { train, dev, test, seed: Number(seed), keep }
}

function Told({ splits, busy, look }: { splits: SplitsShown; busy: boolean; look: ReactNode }) {
  const project = useProject()
  const { hues } = useScheme()
  const codes = splits.names.map(({ type }) => type)
  const parts = splits.parts.filter(({ split, texts }) => split !== 'none' || texts > 0)
  const totals = new Map(codes.map((code) => [code, splits.parts.reduce((sum, part) => sum + (part.spans[code] ?? 0), 0)]))
  return (
    <Box aria-busy={busy || undefined}>
      <Box overflowX="auto">
        <Table.Root>
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader>split</Table.ColumnHeader>
              <Table.ColumnHeader textAlign="end">texts</Table.ColumnHeader>
              <Table.ColumnHeader textAlign="end">sentences</Table.ColumnHeader>
              {codes.map((code) => (
                <Table.ColumnHeader key={code} textAlign="end">
                  <TypeCode code={code} hue={hues.get(code)} />
                </Table.ColumnHeader>
              ))}
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {parts.map((part) => (
              <Table.Row key={part.split}>
                <Table.Cell>{part.split === 'none' ? 'no split' : part.split}</Table.Cell>
                <Table.Cell textAlign="end">{number(part.texts)}</Table.Cell>
                <Table.Cell textAlign="end">{number(part.sentences)}</Table.Cell>
                {codes.map((code) => (
                  <Table.Cell key={code} textAlign="end" title={`${plural(part.spans[code] ?? 0, 'span')} of ${code} in gold`}>
                    {percent(part.spans[code] ?? 0, totals.get(code) ?? 0)}
                  </Table.Cell>
                ))}
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      </Box>
      <Heading>What leaks</Heading>
      <Grid gap="2">
        <Box>
          {splits.group_count === 0
            ? 'No group has texts in two splits.'
            : `${plural(splits.group_count, 'group has', 'groups have')} texts in two splits: ${splits.groups.join(', ')}${splits.group_count > splits.groups.length ? ', …' : '.'}`}
        </Box>
        <Box>
          {splits.alike_count === 0
            ? splits.searched.holds && 'No two texts in different splits are nearly the same.'
            : `${plural(splits.alike_count, 'pair')} of texts that are nearly the same ${splits.alike_count === 1 ? 'lies' : 'lie'} in two splits:`}
          {splits.alike.map((pair) => (
            <Flex key={`${pair.text} ${pair.other}`} gap="2">
              <Link to={`/p/${project}/texts/${pair.text}`}>{pair.title}</Link> ({pair.split}) and
              <Link to={`/p/${project}/texts/${pair.other}`}>{pair.other_title}</Link> ({pair.other_split}), {percent(pair.share, 1)} of their runs of words
            </Flex>
          ))}
          {splits.repeated_count > 0 && (
            <Box mt="2">
              {plural(splits.repeated_count, 'sentence stands', 'sentences stand')} word for word in two splits
              {splits.repeated_count > splits.repeated.length ? `, the first ${splits.repeated.length}:` : ':'}
            </Box>
          )}
          {splits.repeated.map(({ words, texts }) => (
            <Box key={words} color="second">
              “{words.length > LONGEST ? `${words.slice(0, LONGEST)} …` : words}”{' '}
              {Object.entries(texts).map(([split, text], at) => (
                <Fragment key={split}>
                  {at > 0 && ', '}
                  <Link to={`/p/${project}/texts/${text}`}>{split}</Link>
                </Fragment>
              ))}
            </Box>
          ))}
          {look}
        </Box>
        <Names splits={splits} />
      </Grid>
    </Box>
  )
}

function Looking({ splits: { searched }, busy, onLook }: { splits: SplitsShown; busy: boolean; onLook: () => void }) {
  const runs = searched.state === 'waiting' || searched.state === 'running'
  if (runs) return <Box color="second">Texts that are nearly the same are being looked for.</Box>
  if (searched.holds) return null
  return (
    <Box color="second">
      {searched.state === 'failed' && 'Looking for texts that are nearly the same failed. '}
      {searched.job === null ? 'Texts that are nearly the same have not been looked for yet: ' : 'Texts have come since they were last looked for: '}
      <LinkAct disabled={busy} onClick={onLook}>
        look for them
      </LinkAct>
    </Box>
  )
}

/** Names of dev and test that a tagger can have seen in train. */
function Names({ splits }: { splits: SplitsShown }) {
  const { hues } = useScheme()
  const project = useProject()
  const [open, setOpen] = useState('')
  const named = splits.names.filter(({ elsewhere }) => elsewhere > 0)
  if (named.length === 0) return <Box color="second">Gold of dev and test has no names to compare with those of train.</Box>
  return (
    <Box>
      Names of dev and test in gold that train has too:
      <Flex columnGap="4" rowGap="1" wrap="wrap" mt="1">
        {named.map(({ type, elsewhere, in_train }) => (
          <Flex key={type} gap="1.5" align="baseline">
            <TypeCode code={type} hue={hues.get(type)} />
            <LinkAct aria-expanded={open === type} disabled={in_train === 0} onClick={() => setOpen(open === type ? '' : type)}>
              {number(in_train)} of {number(elsewhere)} ({percent(in_train, elsewhere)})
            </LinkAct>
          </Flex>
        ))}
      </Flex>
      {named
        .filter(({ type }) => type === open)
        .map(({ type, shared, in_train }) => (
          <Flex key={type} columnGap="3" rowGap="1" wrap="wrap" mt="2">
            {shared.map((name) => (
              <LinkAct key={name} asChild>
                <Link to={`/p/${project}/texts?${new URLSearchParams({ type, value: name }).toString()}`}>{name}</Link>
              </LinkAct>
            ))}
            {in_train > shared.length && <span>and {number(in_train - shared.length)} more</span>}
          </Flex>
        ))}
    </Box>
  )
}
