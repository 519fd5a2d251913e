import { Box, Flex, Table } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useProject } from '../../api/project'
import type { HarmShown, ListShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, CheckField, QuietAct } from '../../parts/controls'
import { Window } from '../../parts/Window'
import { plural, score } from '../../parts/words'
import { harmQuery } from './queries'

/** All entries that did more harm than good, looked through before they are turned off. */
export function HarmWindow({ list, onClose, onTurnOff }: { list: ListShown; onClose: () => void; onTurnOff: (entries: number[]) => void }) {
  const project = useProject()
  const query = useQuery(harmQuery(project, list.id))
  const [kept, setKept] = useState<ReadonlySet<number>>(new Set())
  const going = query.data?.entries.filter(({ id }) => !kept.has(id)) ?? []
  const toggle = (id: number, off: boolean) => {
    const next = new Set(kept)
    if (off) next.delete(id)
    else next.add(id)
    setKept(next)
  }
  const act = () => {
    onTurnOff(going.map(({ id }) => id))
    onClose()
  }
  return (
    <Window
      title={`Names of “${list.name}” that did more harm than good`}
      onClose={onClose}
      reads
      footer={
        <Flex gap="2">
          <QuietAct onClick={onClose}>cancel</QuietAct>
          <Act disabled={going.length === 0} onClick={act}>
            turn off {plural(going.length, 'name')}
          </Act>
        </Flex>
      }
    >
      <Ask query={query}>
        {(found) =>
          found.entries.length === 0 ? (
            <Box color="second">None: without any one of them the F1 of this list in signed sentences would not be higher.</Box>
          ) : (
            <>
              <Box mb="2">
                The F1 of this list, by the signed sentences outside test, would be higher without any one of these. With few signed sentences that may be chance: look before you turn them off.
              </Box>
              {kept.size === 0 && <Before found={found} />}
              {found.entries.map((entry) => (
                <Flex key={entry.id} justify="space-between" gap="3">
                  <CheckField label={entry.preferred} checked={!kept.has(entry.id)} onChange={(off) => toggle(entry.id, off)} />
                  <Box color="second" whiteSpace="nowrap">
                    right {entry.worth.right}, wrong {entry.worth.judged - entry.worth.right}
                  </Box>
                </Flex>
              ))}
            </>
          )
        }
      </Ask>
    </Window>
  )
}

function Before({ found }: { found: HarmShown }) {
  const rows = [
    ['precision', found.precision, found.precision_after],
    ['recall', found.recall, found.recall_after],
    ['F1', found.f1, found.f1_after],
  ] as const
  return (
    <Table.Root mb="3" maxW="xs">
      <Table.Header>
        <Table.Row>
          <Table.ColumnHeader />
          <Table.ColumnHeader textAlign="right">now</Table.ColumnHeader>
          <Table.ColumnHeader textAlign="right">without these</Table.ColumnHeader>
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {rows.map(([name, now, after]) => (
          <Table.Row key={name}>
            <Table.Cell>{name}</Table.Cell>
            <Table.Cell textAlign="right">{score(now)}</Table.Cell>
            <Table.Cell textAlign="right">{score(after)}</Table.Cell>
          </Table.Row>
        ))}
      </Table.Body>
    </Table.Root>
  )
}
