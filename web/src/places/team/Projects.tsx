import { Box, Flex, Table } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { api } from '../../api/client'
import { meQuery, projectsQuery } from '../../api/project'
import type { ProjectListed } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, LinkAct, QuietAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { tell } from '../../parts/notes'
import { Meter } from '../../parts/signs'
import { useAct } from '../../parts/useAct'
import { FormWindow } from '../../parts/Window'
import { moment, number, percent, plural } from '../../parts/words'
import { BringBack } from './BringBack'
import { NewProject } from './NewProject'
import { Page, Part } from './Page'

const BIN_DAYS = 30

/** Every project that one belongs to, and the way to begin another. */
export function Projects() {
  const query = useQuery(projectsQuery)
  const me = useQuery(meQuery).data
  const [form, setForm] = useState(false)
  const [bringing, setBringing] = useState(false)
  useKeys([{ keys: ['n'], caps: ['n'], label: 'new project', run: () => setForm(true) }])
  return (
    <Page
      title="Projects"
      side={
        <>
          <QuietAct onClick={() => setBringing(true)}>import one</QuietAct>
          <Act onClick={() => setForm(true)}>new project</Act>
        </>
      }
    >
      <Ask query={query}>{(projects) => <Listed projects={projects} onNew={() => setForm(true)} />}</Ask>
      {bringing && <BringBack keeper={me?.keeper ?? false} onClose={() => setBringing(false)} />}
      {form && <NewProject projects={query.data ?? []} onClose={() => setForm(false)} />}
    </Page>
  )
}

function Listed({ projects, onNew }: { projects: readonly ProjectListed[]; onNew: () => void }) {
  const open = projects.filter((p) => p.removed_at === null)
  const binned = projects.filter((p) => p.removed_at !== null)
  return (
    <>
      {open.length > 0 && (
        <Table.Root aria-label="projects" mb="6">
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader ps="0">project</Table.ColumnHeader>
              <Table.ColumnHeader textAlign="end">texts</Table.ColumnHeader>
              <Table.ColumnHeader>signed sentences</Table.ColumnHeader>
              <Table.ColumnHeader>last change</Table.ColumnHeader>
              <Table.ColumnHeader>you are</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {open.map((project) => (
              <Table.Row key={project.slug}>
                <Table.Cell ps="0">
                  <Box asChild color="action" fontFamily="heading" fontSize="context">
                    <Link to={`/p/${project.slug}`}>{project.name}</Link>
                  </Box>
                </Table.Cell>
                <Table.Cell textAlign="end" fontVariantNumeric="tabular-nums">
                  {number(project.texts)}
                </Table.Cell>
                <Table.Cell minW="48">
                  {project.sentences === 0 ? (
                    <Box as="span" color="second">
                      no sentence yet
                    </Box>
                  ) : (
                    <Flex align="center" gap="3">
                      <Box flex="1">
                        <Meter done={project.signed} all={project.sentences} label={`signed sentences of ${project.name}`} gold />
                      </Box>
                      <Box w="11" textAlign="end" fontVariantNumeric="tabular-nums">
                        {percent(project.signed, project.sentences)}
                      </Box>
                    </Flex>
                  )}
                </Table.Cell>
                <Table.Cell color="second">{moment(project.changed_at)}</Table.Cell>
                <Table.Cell color="second">{project.role}</Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      <Box borderWidth="1px" borderColor="hairline" px="5" py="4" mb="6" maxW="prose">
        <Box fontFamily="heading" fontSize="context" mb="1">
          {open.length === 0 ? 'Add a project, or ask to be invited to one' : 'Your own texts'}
        </Box>
        <Box color="second" mb="3">
          A project holds a scheme, its texts and all that is made from them. It takes a name and a language; a scheme can come from a
          project that you know, or from a file.
          {open.length > 0 && ' What you do here does not touch the others.'}
        </Box>
        <Act onClick={onNew}>add a project</Act>
      </Box>
      {binned.length > 0 && (
        <Part title="In the bin" about={`A project stays here for ${BIN_DAYS} days; then it is deleted for good.`}>
          {binned.map((project) => (
            <Binned key={project.slug} project={project} />
          ))}
        </Part>
      )}
    </>
  )
}

/** Days until a project in the bin is deleted for good. */
export function daysLeft(removedAt: string, now = Date.now()): number {
  return Math.max(0, BIN_DAYS - Math.floor((now - new Date(removedAt).getTime()) / 86_400_000))
}

function Binned({ project }: { project: ProjectListed }) {
  const [sure, setSure] = useState(false)
  const restore = useAct(() => api.POST('/api/bin/{project}/restore', { params: { path: { project: project.slug } } }), {
    changes: projectsQuery.queryKey,
    onDone: () => tell(`${project.name} is back.`),
  })
  return (
    <Flex gap="4" py="1.5" align="baseline">
      <Box flex="1">
        {project.name}{' '}
        <Box as="span" color="second">
          · {plural(project.texts, 'text')} · {plural(daysLeft(project.removed_at ?? ''), 'day')} left
        </Box>
      </Box>
      {project.role === 'lead' ? (
        <>
          <LinkAct loading={restore.busy} onClick={() => restore.run()}>
            restore
          </LinkAct>
          <LinkAct onClick={() => setSure(true)}>delete for good</LinkAct>
        </>
      ) : (
        <Box color="second">a lead can restore it</Box>
      )}
      {sure && <Delete project={project} onClose={() => setSure(false)} />}
    </Flex>
  )
}

function Delete({ project, onClose }: { project: ProjectListed; onClose: () => void }) {
  const client = useQueryClient()
  const [name, setName] = useState('')
  const remove = async () => {
    await api.POST('/api/bin/{project}/delete', { params: { path: { project: project.slug } }, body: { name } })
    await client.invalidateQueries({ queryKey: projectsQuery.queryKey })
  }
  return (
    <FormWindow title={`Delete ${project.name} for good?`} send="delete for good" fields={['name']} onClose={onClose} onSend={remove}>
      {(errorOf) => (
        <>
          <Box mb="3">
            This deletes {plural(project.texts, 'text')} with {plural(project.signed, 'signed sentence')}, and every list, rule, tagger,
            scorecard and record of the project. Nothing brings them back.
          </Box>
          <TextField label="type the project's name" value={name} autoFocus error={errorOf('name')} onChange={setName} />
        </>
      )}
    </FormWindow>
  )
}
