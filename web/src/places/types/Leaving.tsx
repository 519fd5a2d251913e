import { Box, Table } from '@chakra-ui/react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'

import { api, body, messageOf } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import type { PreviewShown, TypeShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, BadAct, ChoiceField, QuietAct } from '../../parts/controls'
import { Window } from '../../parts/Window'
import { plural } from '../../parts/words'
import { touchedQuery } from './queries'

interface MergeProps {
  type: TypeShown
  types: readonly TypeShown[]
  onClose: () => void
  onDone: (type: TypeShown) => void
}

/** One type becomes part of another, after one has seen what goes with it. */
export function Merge({ type, types, onClose, onDone }: MergeProps) {
  const project = useProject()
  const others = types.filter((t) => t.id !== type.id)
  const [into, setInto] = useState(others[0]?.id ?? 0)
  const target = others.find((t) => t.id === into)
  const send = async (scheme: number) => {
    const path = { project, type_id: type.id }
    onDone(await body(api.POST('/api/projects/{project}/types/{type_id}/merge', { params: { path }, body: { into, scheme } })))
  }
  return (
    <Leaving
      title={`Merge ${type.code} into another type`}
      type={type}
      into={into}
      act={(busy, run, disabled) => (
        <Act onClick={run} loading={busy} disabled={disabled}>
          merge {type.code} into {target?.code}
        </Act>
      )}
      onSend={send}
      onClose={onClose}
      said={`What is named here becomes ${target?.code ?? 'the other type'}. Spans are changed in the log, sentence by sentence; what was signed stays signed, by whom it was. Taggers that found ${type.code} go on as ${target?.code ?? 'the other type'}.`}
    >
      <ChoiceField
        label="becomes part of"
        value={String(into)}
        options={others.map((t) => ({ value: String(t.id), label: `${t.code} ${t.name}` }))}
        onChange={(value) => setInto(Number(value))}
      />
    </Leaving>
  )
}

interface RetireProps {
  type: TypeShown
  onClose: () => void
  onDone: () => void
}

/** A type leaves the scheme, after one has seen what goes with it. */
export function Retire({ type, onClose, onDone }: RetireProps) {
  const project = useProject()
  const send = async (scheme: number) => {
    const path = { project, type_id: type.id }
    await api.POST('/api/projects/{project}/types/{type_id}/retire', { params: { path }, body: { scheme } })
    onDone()
  }
  return (
    <Leaving
      title={`Retire ${type.code}, ${type.name}?`}
      type={type}
      into={null}
      act={(busy, run, disabled) => (
        <BadAct onClick={run} loading={busy} disabled={disabled}>
          retire {type.code}
        </BadAct>
      )}
      onSend={send}
      onClose={onClose}
      said="Its spans are taken out of their sentences; those that were signed have to be signed again. The log keeps every one of them, and an earlier version of the scheme brings the type back, without them."
    />
  )
}

interface LeavingProps {
  title: string
  type: TypeShown
  into: number | null
  act: (busy: boolean, run: () => void, disabled: boolean) => ReactNode
  onSend: (scheme: number) => Promise<void>
  onClose: () => void
  said: string
  children?: ReactNode
}

function Leaving({ title, type, into, act, onSend, onClose, said, children }: LeavingProps) {
  const project = useProject()
  const client = useQueryClient()
  const { mutate, error, isPending: busy } = useMutation({
    mutationFn: onSend,
    onSuccess: () => {
      invalidate(client, project, 'all')
      onClose()
    },
    // What stands now is what the next attempt is about.
    onError: () => client.invalidateQueries({ queryKey: touchedQuery(project, type.id, into).queryKey }),
  })
  // What is just leaving is not asked about again.
  const query = useQuery({ ...touchedQuery(project, type.id, into), enabled: !busy })
  const run = () => {
    if (query.data && !busy) mutate(query.data.scheme)
  }
  const barred = !query.data || query.data.bars.length > 0
  return (
    <Window
      title={title}
      stays
      onClose={onClose}
      footer={
        <>
          <QuietAct onClick={onClose}>cancel</QuietAct>
          {act(busy, run, barred)}
        </>
      }
    >
      {children}
      <Ask query={query}>{(preview) => <Touched preview={preview} said={said} />}</Ask>
      {error && (
        <Box color="bad" role="alert" mt="2">
          {messageOf(error)}
        </Box>
      )}
    </Window>
  )
}

/** Everything that a change touches, and what stands in its way. */
function Touched({ preview: { touched, bars }, said }: { preview: PreviewShown; said: string }) {
  return (
    <>
      {touched.length === 0 ? (
        <Box mb="2">Nothing uses it.</Box>
      ) : (
        <Table.Root size="sm" mb="3" aria-label="what this touches">
          <Table.Body>
            {touched.map((one) => (
              <Table.Row key={one.where}>
                <Table.Cell ps="0">{plural(one.count, one.noun)}</Table.Cell>
                <Table.Cell color="second">{one.names.length > 0 ? one.names.join(', ') : one.where === 'gold' ? 'in gold' : `in the layer ${one.where}`}</Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      {bars.length > 0 ? (
        <Box color="bad" role="alert">
          This cannot be done yet: {bars.join('; ')}. Change or delete those first, or merge the type into another.
        </Box>
      ) : (
        <Box color="second">{said}</Box>
      )}
    </>
  )
}
