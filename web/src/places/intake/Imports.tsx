import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'

import { api, body } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { IntakeHead } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, LinkAct, QuietAct } from '../../parts/controls'
import { Columns, Heading, Section, Title } from '../../parts/layout'
import { RowList } from '../../parts/RowList'
import { useAct } from '../../parts/useAct'
import { moment, number, plural } from '../../parts/words'
import { Files, Sending } from './Files'
import { ImportSheet } from './ImportSheet'
import { PasteWindow } from './PasteWindow'
import { SiteWindow } from './SiteWindow'
import { importQuery, importsQuery } from './queries'
import type { Sent } from './sending'
import { useSending } from './useSending'

/** Sources on their way in: each is seen before anything of it is kept. */
export function Imports() {
  const project = useProject()
  const lead = useIsLead()
  const navigate = useNavigate()
  const { id: wanted } = useParams()
  const id = Number(wanted ?? 0)
  const heads = useQuery({ ...importsQuery(project), enabled: lead })
  const open = useQuery({ ...importQuery(project, id), enabled: lead && id > 0 })
  const sending = useSending(project)
  const [pasting, setPasting] = useState(false)
  const [fetching, setFetching] = useState(false)
  const go = (to: number | null) => void navigate(`/p/${project}/texts/imports${to === null ? '' : `/${to}`}`)
  // Files that are chosen while none is open begin a new one.
  const begin = useAct(
    async (files: readonly Sent[]) => {
      const made = await body(api.POST('/api/projects/{project}/imports', { params: { path: { project } } }))
      go(made.id)
      void sending.run(made.id, files)
    },
    { changes: importsQuery(project).queryKey },
  )
  if (!lead) return <Box p="5">Texts are imported by the lead of the project.</Box>
  const take = (files: readonly Sent[]) => {
    if (files.length === 0) return
    if (open.data?.state === 'open') void sending.run(open.data.id, files)
    else begin.run(files)
  }
  const busy = sending.far !== null || begin.busy
  return (
    <Columns
      left={
        <>
          <Box px="3" pt="3">
            <Heading
              side={
                <LinkAct asChild>
                  <Link to={`/p/${project}/texts`}>back to texts</Link>
                </LinkAct>
              }
            >
              Imports
            </Heading>
          </Box>
          {heads.data?.length === 0 ? (
            <Box px="3" color="second" flex="1">
              None yet.
            </Box>
          ) : (
            <RowList rows={heads.data ?? []} keyOf={(head) => head.id} chosen={id || null} onChoose={(head) => go(head.id)} height={46} label="imports">
              {(head) => <HeadRow head={head} />}
            </RowList>
          )}
          {id > 0 && (
            <Box p="3" borderTopWidth="1px" borderColor="hairline">
              <Act onClick={() => go(null)}>new import</Act>
            </Box>
          )}
        </>
      }
      right={<Help />}
    >
      <Box p="5" maxW="5xl">
        {id > 0 ? (
          <Ask query={open}>{(one) => <ImportSheet key={one.id} one={one} sending={sending} take={take} onGone={() => go(null)} />}</Ask>
        ) : (
          <>
            <Title>New import</Title>
            {sending.far ? <Sending far={sending.far} onStop={sending.stop} /> : <Files take={take} busy={busy} large />}
            <Flex mt="3" gap="2">
              <QuietAct onClick={() => setFetching(true)}>fetch a web site</QuietAct>
              <QuietAct onClick={() => setPasting(true)}>paste text or a table instead</QuietAct>
            </Flex>
          </>
        )}
      </Box>
      {fetching && <SiteWindow onClose={() => setFetching(false)} onDone={go} />}
      {pasting && <PasteWindow onClose={() => setPasting(false)} onDone={(file) => take([file])} />}
    </Columns>
  )
}

function HeadRow({ head }: { head: IntakeHead }) {
  const { report } = head
  return (
    <Box px="2.5" py="1">
      <Flex justify="space-between" gap="2">
        <Box fontWeight="bold" truncate>
          {report ? plural(report.texts, 'text') : plural(head.files, 'file')}
        </Box>
        <Box color="second" fontSize="small" whiteSpace="nowrap">
          {report ? 'imported' : 'not kept yet'}
        </Box>
      </Flex>
      <Box color="second" fontSize="small" truncate>
        {moment(head.created_at)}
        {report !== null && report.refused > 0 && ` · ${number(report.refused)} refused`}
      </Box>
    </Box>
  )
}

function Help() {
  return (
    <>
      <Heading>What can be imported</Heading>
      <Box color="second">
        Text, Markdown, web pages, mails and mailboxes, PDF, Word files, tables and workbooks, JSON Lines; annotated corpora as JSON Lines, label columns,
        CoNLL-U or Web Annotation; any of these packed as zip; and the pages of a web site.
      </Box>
      <Section>
        <Box color="second">
          Nothing is kept before you say so. You see what each file is, ten texts as they would stand, and what is refused and why. An import is kept as a
          whole or not at all.
        </Box>
      </Section>
      <Section>
        <Box color="second">
          A text that is here already is known by its words and does not come twice. One from the same file or address with other words is a new version: what was
          signed comes over to it.
        </Box>
      </Section>
    </>
  )
}
