import { Box, Flex, Grid } from '@chakra-ui/react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { api, body, messageOf } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import type { ComingLookedShown, ListImportShown, ListShown, NamesPlanWish } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, ChoiceField, FileField, LinkAct, QuietAct } from '../../parts/controls'
import { tell } from '../../parts/notes'
import { useLatest } from '../../parts/useLatest'
import { Window } from '../../parts/Window'
import { number, plural } from '../../parts/words'
import { isBusy, listImportQuery, sendNames } from './importing'
import { useUndoList } from './useListActs'

const ACCEPT = '.csv,.tsv,.tab,.xlsx,.jsonl,.json,.ttl,.jsonld,.txt'
const ROLES = [
  { value: 'name', label: 'name' },
  { value: 'variants', label: 'variants' },
  { value: 'identifier', label: 'identifier' },
  { value: 'note', label: 'note' },
  { value: 'on', label: 'on or off' },
  { value: 'label', label: 'label' },
  { value: 'none', label: 'nothing' },
]
const RESTS = [
  { value: 'keep', label: 'stay as they are' },
  { value: 'off', label: 'are turned off' },
  { value: 'delete', label: 'are deleted' },
]

type Sample = keyof ComingLookedShown['samples']

const KINDS: readonly (readonly [Sample, string])[] = [
  ['new', 'new'],
  ['changed', 'get something new'],
  ['same', 'as they are'],
  ['variant', 'variants already'],
  ['double', 'twice in the file'],
  ['elsewhere', 'in other lists too'],
  ['refused', 'cannot be kept'],
]

/** A file of names into a list: what would come of it is seen before anything is kept. */
export function ImportWindow({ list, onClose }: { list: ListShown; onClose: () => void }) {
  const project = useProject()
  const [id, setId] = useState<number | null>(null)
  const client = useQueryClient()
  const sending = useMutation({
    mutationFn: (file: File) => sendNames(project, list.id, file),
    onSuccess: (made) => {
      client.setQueryData(listImportQuery(project, list.id, made.id).queryKey, made)
      setId(made.id)
    },
  })
  const close = () => {
    if (id !== null) void api.DELETE('/api/projects/{project}/lists/{list_id}/imports/{number}', { params: { path: { project, list_id: list.id, number: id } } })
    onClose()
  }
  return (
    <Window title={`Import names into “${list.name}”`} wide stays onClose={close} footer={id === null ? <QuietAct onClick={close}>cancel</QuietAct> : undefined}>
      <FileField
        label="file"
        accept={ACCEPT}
        disabled={sending.isPending}
        help="A table (CSV, TSV or xlsx), JSON Lines, SKOS (Turtle or JSON-LD), or one name a line."
        error={sending.error ? messageOf(sending.error) : undefined}
        onChoose={(file) => sending.mutate(file)}
      />
      {sending.isPending && <Box color="second">The file is sent.</Box>}
      {id !== null && <Looked key={id} list={list} id={id} onClose={close} onDone={onClose} />}
    </Window>
  )
}

function Looked({ list, id, onClose, onDone }: { list: ListShown; id: number; onClose: () => void; onDone: () => void }) {
  const project = useProject()
  const client = useQueryClient()
  const undo = useUndoList()
  const path = { project, list_id: list.id, number: id }
  const options = listImportQuery(project, list.id, id)
  const query = useQuery({ ...options, refetchInterval: ({ state }) => (state.data && isBusy(state.data) ? 400 : false) })
  const took = (held: ListImportShown) => client.setQueryData(options.queryKey, held)
  const change = useMutation({ mutationFn: (plan: NamesPlanWish) => body(api.PUT('/api/projects/{project}/lists/{list_id}/imports/{number}/plan', { params: { path }, body: plan })), onSuccess: took })
  const keep = useMutation({ mutationFn: () => body(api.POST('/api/projects/{project}/lists/{list_id}/imports/{number}/keep', { params: { path } })), onSuccess: took })
  const stop = useMutation({ mutationFn: (job: number) => api.POST('/api/projects/{project}/jobs/{job_id}/stop', { params: { path: { project, job_id: job } } }) })
  const held = query.data
  const isKept = held?.state === 'kept'
  const end = useLatest(() => {
    if (!held) return
    invalidate(client, project, 'lists')
    const { act, name, work } = held
    tell(work?.message ?? 'The names are in the list.', act === null ? undefined : { label: 'undo', onClick: () => undo.run({ id: act, said: `the import of “${name}”` }) })
    onDone()
  })
  useEffect(() => {
    if (isKept) end()
  }, [isKept, end])
  const fault = change.error ?? keep.error
  return (
    <Ask query={query}>
      {(now) => {
        const busy = isBusy(now) || now.state === 'kept'
        return (
          <>
            {isBusy(now) && (
              <Flex gap="3" align="center" mb="2" role="status">
                <Box>
                  {now.work?.message || (now.work?.done ? `${number(now.work.done)} names read` : 'The file is read.')}
                </Box>
                <QuietAct onClick={() => now.work && stop.mutate(now.work.id)}>stop</QuietAct>
              </Flex>
            )}
            {!busy && now.looked === null && (
              <Box color="bad" role="alert" mb="2">
                {now.work?.message || 'It has not been looked into.'}
              </Box>
            )}
            {now.looked && <Coming looked={now.looked} plan={now.plan} busy={busy} onPlan={(plan) => change.mutate(plan)} list={list} id={id} />}
            {fault && (
              <Box color="bad" role="alert" mb="2">
                {messageOf(fault)}
              </Box>
            )}
            <Flex justify="flex-end" gap="2" pb="3">
              <QuietAct onClick={onClose}>cancel</QuietAct>
              <Act disabled={busy || now.looked === null || now.looked.amiss !== ''} loading={keep.isPending} onClick={() => keep.mutate()}>
                import {now.looked ? plural(now.looked.counts.new + now.looked.counts.changed, 'name') : ''}
              </Act>
            </Flex>
          </>
        )
      }}
    </Ask>
  )
}

interface ComingProps {
  looked: ComingLookedShown
  plan: NamesPlanWish
  busy: boolean
  onPlan: (plan: NamesPlanWish) => void
  list: ListShown
  id: number
}

function Coming({ looked, plan, busy, onPlan, list, id }: ComingProps) {
  const { found, counts, samples, labels, amiss } = looked
  const [seen, setSeen] = useState<Sample>('new')
  const roles = Object.fromEntries(found?.columns.map((column) => [column.name, column.role]) ?? [])
  return (
    <>
      {amiss && (
        <Box color="bad" role="alert" mb="2">
          {amiss}
        </Box>
      )}
      {found && found.columns.length > 0 && (
        <Grid templateColumns="repeat(auto-fill, minmax(var(--chakra-sizes-36), 1fr))" gap="3" mb="2">
          {found.columns.map((column) => (
            <ChoiceField
              key={column.name}
              label={column.name}
              value={column.role}
              options={ROLES}
              disabled={busy}
              help={column.values.join(', ').slice(0, 60)}
              onChange={(role) => onPlan({ ...plan, header: found.header, roles: { ...roles, [column.name]: role } })}
            />
          ))}
        </Grid>
      )}
      {labels.length > 0 && (
        <Box maxW="sm" mb="2">
          <ChoiceField
            label="names with the label"
            value={plan.label}
            options={[{ value: '', label: 'any' }, ...labels.map(({ label, names }) => ({ value: label, label: `${label} (${number(names)})` }))]}
            disabled={busy}
            help="Send the file again for the list of another label."
            onChange={(label) => onPlan({ ...plan, label })}
          />
        </Box>
      )}
      <Flex gap="3" mb="2" wrap="wrap" role="group" aria-label="what would come of it">
        {KINDS.filter(([kind]) => counts[kind] > 0).map(([kind, label]) => (
          <LinkAct key={kind} aria-pressed={seen === kind} fontWeight={seen === kind ? 'bold' : 'normal'} color={seen === kind ? 'ink' : 'action'} onClick={() => setSeen(kind)}>
            {number(counts[kind])} {label}
          </LinkAct>
        ))}
      </Flex>
      <Samples samples={samples} seen={seen} list={list} id={id} />
      {counts.unmet > 0 && (
        <Box mb="2">
          <ChoiceField label={`${plural(counts.unmet, 'name')} of the list that the file has not`} value={plan.rest} options={RESTS} disabled={busy} onChange={(rest) => onPlan({ ...plan, rest })} />
        </Box>
      )}
    </>
  )
}

function Samples({ samples, seen, list, id }: { samples: ComingLookedShown['samples']; seen: Sample; list: ListShown; id: number }) {
  const project = useProject()
  if (seen === 'refused') {
    return (
      <Box mb="3">
        {samples.refused.slice(0, 20).map((one, k) => (
          <Box key={k}>
            <Box as="span" color="second">
              {one.place}:
            </Box>{' '}
            {one.why} {one.content && <q>{one.content}</q>}
          </Box>
        ))}
        <Box asChild color="action">
          <a href={`/api/projects/${project}/lists/${list.id}/imports/${id}/refused`} download>
            all of them as CSV
          </a>
        </Box>
      </Box>
    )
  }
  return (
    <Box mb="3">
      {samples[seen].map((one) => (
        <Flex key={`${one.place} ${one.name}`} gap="2" wrap="wrap">
          <Box fontWeight="bold">{one.name}</Box>
          {one.variants.length > 0 && <Box color="second">also {one.variants.join(', ')}</Box>}
          {one.before && one.before !== one.name && (
            <Box color="second">
              {seen === 'elsewhere' ? 'in' : 'here'} “{one.before}”
            </Box>
          )}
        </Flex>
      ))}
    </Box>
  )
}
