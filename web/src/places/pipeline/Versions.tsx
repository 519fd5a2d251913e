import { Box, Flex } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { invalidate } from '../../api/live'
import { figuresQuery, useProject } from '../../api/project'
import type { PipelineVersionShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { LinkAct, TextField } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { useAct } from '../../parts/useAct'
import { FormWindow } from '../../parts/Window'
import { Working } from '../../parts/Working'
import { moment } from '../../parts/words'
import type { Pair } from './Compared'
import { samePlan } from './plan'
import { versionsQuery } from './queries'
import type { PlanDraft } from './useDraft'
import { titleOf } from './versions'

interface VersionsProps {
  draft: PlanDraft
  now: PipelineVersionShown
  lead: boolean
  onCompare: (pair: Pair) => void
}

/** Every version that was saved. One goes back to one as with any other change: it is looked at first, and saved as a new one. */
export function Versions({ draft, now, lead, onCompare }: VersionsProps) {
  const project = useProject()
  const query = useQuery(versionsQuery(project))
  const [named, setNamed] = useState<PipelineVersionShown | null>(null)
  const publishing = useQuery(figuresQuery(project)).data?.running.find((job) => job.kind === 'publishing')
  return (
    <>
      <Box px="3" pt="2.5">
        <Heading>Versions</Heading>
        {publishing && <Working job={publishing} label="publishing" mayStop={lead} />}
      </Box>
      <Ask query={query}>
        {(versions) => (
          <Box as="ul" listStyleType="none" aria-label="versions">
            {versions.map((version) => (
              <Box as="li" key={version.number} aria-label={titleOf(version)} px="3" py="1.5" borderTopWidth="1px" borderColor="hairline" bg={samePlan(version.plan, draft.plan) ? 'chosen' : undefined}>
                <Box>
                  <b>{titleOf(version)}</b>
                  {version.number === now.number && <Box as="span" color="second"> · now</Box>}
                  {version.published && <Box as="span" color="good"> · published</Box>}
                </Box>
                <Box fontSize="small" color="second">
                  {version.said}
                </Box>
                {version.created_at && (
                  <Box fontSize="small" color="second">
                    {moment(version.created_at)}
                    {version.by && ` · ${version.by}`}
                  </Box>
                )}
                <Acts version={version} draft={draft} now={now.number} lead={lead} onCompare={onCompare} onName={() => setNamed(version)} />
              </Box>
            ))}
          </Box>
        )}
      </Ask>
      {named && <NameWindow version={named} onClose={() => setNamed(null)} />}
    </>
  )
}

interface ActsProps {
  version: PipelineVersionShown
  draft: PlanDraft
  now: number
  lead: boolean
  onCompare: (pair: Pair) => void
  onName: () => void
}

function Acts({ version, draft, now, lead, onCompare, onName }: ActsProps) {
  const project = useProject()
  const { number, published, has_bundle: hasFile } = version
  const path = { project, number }
  const publish = useAct(
    async (): Promise<unknown> => (number > 0 ? api.POST('/api/projects/{project}/pipeline/versions/{number}/publish', { params: { path } }) : api.POST('/api/projects/{project}/pipeline/publish', { params: { path: { project } } })),
    { changes: 'pipeline' },
  )
  const withdraw = useAct(() => api.DELETE('/api/projects/{project}/pipeline/versions/{number}/publish', { params: { path } }), { changes: 'pipeline' })
  const title = titleOf(version)
  return (
    <Flex gap="2.5" wrap="wrap" fontSize="small">
      {lead && !samePlan(version.plan, draft.plan) && (
        <LinkAct aria-label={`try ${title}`} onClick={() => draft.change(version.plan)}>
          try it
        </LinkAct>
      )}
      {number !== now && (
        <LinkAct aria-label={`compare ${title} with now`} onClick={() => onCompare({ before: number, after: now })}>
          compare
        </LinkAct>
      )}
      {lead && number > 0 && (
        <LinkAct aria-label={`name ${title}`} onClick={onName}>
          name
        </LinkAct>
      )}
      {lead && !published && (number > 0 || now === 0) && (
        <LinkAct aria-label={`publish ${title}`} disabled={publish.busy} onClick={() => publish.run()}>
          publish
        </LinkAct>
      )}
      {lead && hasFile && (
        <>
          <LinkAct asChild>
            <a href={`/api/projects/${encodeURIComponent(project)}/pipeline/versions/${String(number)}/bundle`} download aria-label={`file of ${title}`}>
              its file
            </a>
          </LinkAct>
          <LinkAct aria-label={`withdraw ${title}`} disabled={withdraw.busy} onClick={() => withdraw.run()}>
            withdraw
          </LinkAct>
        </>
      )}
    </Flex>
  )
}

function NameWindow({ version, onClose }: { version: PipelineVersionShown; onClose: () => void }) {
  const project = useProject()
  const [name, setName] = useState(version.name)
  const client = useQueryClient()
  const send = async () => {
    await api.PUT('/api/projects/{project}/pipeline/versions/{number}/name', { params: { path: { project, number: version.number } }, body: { name } })
    invalidate(client, project, 'pipeline')
  }
  return (
    <FormWindow title={`Name version ${String(version.number)}`} send="name" fields={['name']} onClose={onClose} onSend={send}>
      {(errorOf) => <TextField label="name" value={name} error={errorOf('name')} onChange={setName} help="As people will speak of it; empty for its number alone." />}
    </FormWindow>
  )
}
