import { Box, Flex, Table } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import { Ask } from '../../parts/Ask'
import { BadAct, CheckField, QuietAct } from '../../parts/controls'
import { tell } from '../../parts/notes'
import { useAct } from '../../parts/useAct'
import { Sure, Window } from '../../parts/Window'
import { moment, number, plural } from '../../parts/words'
import { binQuery } from './queries'

/** Texts that were removed: put back as they were, or deleted for good. */
export function BinWindow({ onClose }: { onClose: () => void }) {
  const project = useProject()
  const query = useQuery(binQuery(project))
  const [marked, setMarked] = useState<ReadonlySet<number>>(new Set())
  const [sure, setSure] = useState(false)
  const rows = query.data?.texts ?? []
  const total = query.data?.total ?? 0
  const chosen = rows.filter((row) => marked.has(row.id)).map((row) => row.id)
  // Without a mark all are meant.
  const some = chosen.length > 0 ? { texts: chosen } : {}
  const count = chosen.length > 0 ? chosen.length : total
  const path = { params: { path: { project } }, body: some }
  const restore = useAct(() => body(api.POST('/api/projects/{project}/texts/bin/restore', path)), {
    changes: 'texts',
    onDone: ({ texts, left }) => {
      setMarked(new Set())
      tell(left === 0 ? `${plural(texts, 'text')} put back.` : `${plural(texts, 'text')} put back; ${plural(left, 'text has', 'texts have')} come again meanwhile and stayed in the bin.`)
    },
  })
  const client = useQueryClient()
  const empty = async () => {
    const { deleted } = await body(api.POST('/api/projects/{project}/texts/bin/empty', path))
    setMarked(new Set())
    tell(`${plural(deleted, 'text')} deleted for good.`)
    invalidate(client, project, 'texts')
  }
  const toggle = (id: number, on: boolean) => {
    const next = new Set(marked)
    if (on) next.add(id)
    else next.delete(id)
    setMarked(next)
  }
  return (
    <Window
      title="Bin"
      wide
      stays
      onClose={onClose}
      footer={
        <>
          <QuietAct onClick={onClose}>close</QuietAct>
          {total > 0 && (
            <>
              <BadAct onClick={() => setSure(true)}>delete {chosen.length > 0 ? number(count) : 'all'} for good</BadAct>
              <QuietAct loading={restore.busy} onClick={() => restore.run()}>
                put {chosen.length > 0 ? number(count) : 'all'} back
              </QuietAct>
            </>
          )}
        </>
      }
    >
      <Ask query={query}>
        {({ texts }) =>
          texts.length === 0 ? (
            <Box color="second">Nothing is in the bin. Texts that you delete come here with all that is marked in them.</Box>
          ) : (
            <Table.Root>
              <Table.Header>
                <Table.Row>
                  <Table.ColumnHeader>text</Table.ColumnHeader>
                  <Table.ColumnHeader textAlign="end">sentences</Table.ColumnHeader>
                  <Table.ColumnHeader textAlign="end">signatures</Table.ColumnHeader>
                  <Table.ColumnHeader>deleted</Table.ColumnHeader>
                </Table.Row>
              </Table.Header>
              <Table.Body>
                {texts.map((row) => (
                  <Table.Row key={row.id}>
                    <Table.Cell>
                      <CheckField label={row.title} checked={marked.has(row.id)} onChange={(on) => toggle(row.id, on)} />
                    </Table.Cell>
                    <Table.Cell textAlign="end">{number(row.sentences)}</Table.Cell>
                    <Table.Cell textAlign="end">{number(row.signed)}</Table.Cell>
                    <Table.Cell>
                      {moment(row.at)}
                      {row.who && ` by ${row.who}`}
                    </Table.Cell>
                  </Table.Row>
                ))}
              </Table.Body>
            </Table.Root>
          )
        }
      </Ask>
      {total > rows.length && (
        <Flex color="second" mt="2">
          The last {number(rows.length)} of {plural(total, 'text')}.
        </Flex>
      )}
      {sure && (
        <Sure title={`Delete ${plural(count, 'text')} for good?`} act="delete for good" onClose={() => setSure(false)} onSure={empty}>
          They go with their sentences and all that is marked and signed in them. This cannot be undone.
        </Sure>
      )}
    </Window>
  )
}
