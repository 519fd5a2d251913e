import { Box, Flex, Table } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { api, body } from '../../api/client'
import { invalidate } from '../../api/live'
import { meQuery, projectQuery, projectsQuery, useProject } from '../../api/project'
import type { InvitationShown, MemberShown, ProjectShown, RoleWish } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, BadAct, ChoiceField, LinkAct, QuietAct, TextField } from '../../parts/controls'
import { tell } from '../../parts/notes'
import { useAct } from '../../parts/useAct'
import { FormWindow, Sure, Window } from '../../parts/Window'
import { moment } from '../../parts/words'
import { Page, Part } from './Page'
import { teamQuery } from './queries'

type Role = RoleWish['role']

export const ROLES: readonly { value: Role; label: string; about: string }[] = [
  { value: 'annotator', label: 'annotator', about: 'adds texts, marks and signs' },
  { value: 'lead', label: 'lead', about: 'can do everything: scheme, lists, rules, training, people' },
  { value: 'reader', label: 'reader', about: 'sees everything, changes nothing' },
]

const roleOptions = ROLES.map(({ value, label, about }) => ({ value, label: `${label}: ${about}` }))

/** A project's name, its people, and its end. */
export function ProjectPage() {
  const slug = useProject()
  const query = useQuery(projectQuery(slug))
  return (
    <Ask query={query}>
      {(project) => (
        <Page title={project.name}>
          <People project={project} />
          <Naming project={project} />
          {project.role === 'lead' && <Archive project={project.slug} />}
          <Leaving project={project} />
        </Page>
      )}
    </Ask>
  )
}

function People({ project }: { project: ProjectShown }) {
  const query = useQuery(teamQuery(project.slug))
  const me = useQuery(meQuery).data
  const lead = project.role === 'lead'
  const [inviting, setInviting] = useState(false)
  return (
    <Part title="People" about="Whoever belongs to the project sees all of it. A lead invites others by a link; no mail is sent.">
      <Ask query={query}>
        {({ members, invitations }) => (
          <>
            <Table.Root size="sm" aria-label="members" mb="3">
              <Table.Header>
                <Table.Row>
                  <Table.ColumnHeader ps="0">name</Table.ColumnHeader>
                  <Table.ColumnHeader>login</Table.ColumnHeader>
                  <Table.ColumnHeader>role</Table.ColumnHeader>
                  <Table.ColumnHeader>since</Table.ColumnHeader>
                  <Table.ColumnHeader />
                </Table.Row>
              </Table.Header>
              <Table.Body>
                {members.map((member) => (
                  <MemberRow key={member.id} member={member} project={project.slug} lead={lead} own={member.id === me?.id} />
                ))}
              </Table.Body>
            </Table.Root>
            {lead && invitations.length > 0 && <Invitations project={project.slug} invitations={invitations} />}
            {lead && <Act onClick={() => setInviting(true)}>invite somebody</Act>}
          </>
        )}
      </Ask>
      {inviting && <Invite project={project.slug} onClose={() => setInviting(false)} />}
    </Part>
  )
}

function MemberRow({ member, project, lead, own }: { member: MemberShown; project: string; lead: boolean; own: boolean }) {
  const client = useQueryClient()
  const [sure, setSure] = useState(false)
  const path = { project, account_id: member.id }
  const change = useAct((role: Role) => api.PUT('/api/projects/{project}/team/{account_id}', { params: { path }, body: { role } }), { changes: 'project' })
  return (
    <Table.Row>
      <Table.Cell ps="0">
        {member.name}
        {own && ' (you)'}
        {!member.active && (
          <Box as="span" color="second">
            {' '}
            · cannot sign in
          </Box>
        )}
      </Table.Cell>
      <Table.Cell color="second">{member.login}</Table.Cell>
      <Table.Cell>
        {lead ? (
          <Box maxW="40" css={{ '& > div': { marginBottom: 0 } }}>
            <ChoiceField
              label={`role of ${member.name}`}
              quietLabel
              value={change.of ?? member.role}
              options={ROLES.map(({ value, label }) => ({ value, label }))}
              onChange={(role) => change.run(role as Role)}
            />
          </Box>
        ) : (
          member.role
        )}
      </Table.Cell>
      <Table.Cell color="second">{moment(member.since)}</Table.Cell>
      <Table.Cell textAlign="end">{lead && !own && <LinkAct onClick={() => setSure(true)}>remove</LinkAct>}</Table.Cell>
      {sure && (
        <Sure
          title={`Remove ${member.name}?`}
          act="remove"
          onClose={() => setSure(false)}
          onSure={async () => {
            await api.DELETE('/api/projects/{project}/team/{account_id}', { params: { path } })
            invalidate(client, project, 'project')
          }}
        >
          {member.name} sees nothing of this project any more. What they marked and signed stays, under their name.
        </Sure>
      )}
    </Table.Row>
  )
}

function Invitations({ project, invitations }: { project: string; invitations: readonly InvitationShown[] }) {
  const withdraw = useAct(
    (id: number) => api.DELETE('/api/projects/{project}/invitations/{invitation_id}', { params: { path: { project, invitation_id: id } } }),
    { changes: 'project' },
  )
  return (
    <Table.Root size="sm" aria-label="open invitations" mb="3">
      <Table.Header>
        <Table.Row>
          <Table.ColumnHeader ps="0">open invitation</Table.ColumnHeader>
          <Table.ColumnHeader>as</Table.ColumnHeader>
          <Table.ColumnHeader>by</Table.ColumnHeader>
          <Table.ColumnHeader>works until</Table.ColumnHeader>
          <Table.ColumnHeader />
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {invitations.map((one) => (
          <Table.Row key={one.id}>
            <Table.Cell ps="0">{one.note || 'for nobody in particular'}</Table.Cell>
            <Table.Cell>{one.role}</Table.Cell>
            <Table.Cell color="second">{one.made_by}</Table.Cell>
            <Table.Cell color="second">{moment(one.expires_at)}</Table.Cell>
            <Table.Cell textAlign="end">
              <LinkAct loading={withdraw.of === one.id} onClick={() => withdraw.run(one.id)}>
                withdraw
              </LinkAct>
            </Table.Cell>
          </Table.Row>
        ))}
      </Table.Body>
    </Table.Root>
  )
}

/** The link of an invitation; the token stands behind the number sign, so that it reaches no server's log. */
export const invitationLink = (token: string) => `${window.location.origin}/invitation#${token}`

function Invite({ project, onClose }: { project: string; onClose: () => void }) {
  const client = useQueryClient()
  const [role, setRole] = useState<Role>('annotator')
  const [note, setNote] = useState('')
  const [link, setLink] = useState('')
  if (link) return <TheLink link={link} onClose={onClose} />
  const send = async () => {
    const made = await body(api.POST('/api/projects/{project}/invitations', { params: { path: { project } }, body: { role, note } }))
    invalidate(client, project, 'project')
    setLink(invitationLink(made.token))
  }
  return (
    <FormWindow title="Invite somebody" send="make the link" fields={['note']} onClose={onClose} onSend={send} stays>
      {(errorOf) => (
        <>
          <TextField label="for whom" value={note} autoFocus help="for yourself, to tell invitations apart" error={errorOf('note')} onChange={setNote} />
          <ChoiceField label="as" value={role} options={roleOptions} onChange={(value) => setRole(value as Role)} />
        </>
      )}
    </FormWindow>
  )
}

function TheLink({ link, onClose }: { link: string; onClose: () => void }) {
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(link)
      tell('The link is copied.')
    } catch {
      tell('The browser does not let the page copy; mark the link and copy it by hand.')
    }
  }
  return (
    <Window
      title="The invitation"
      stays
      onClose={onClose}
      footer={
        <>
          <QuietAct onClick={onClose}>close</QuietAct>
          <Act onClick={() => void copy()}>copy the link</Act>
        </>
      }
    >
      <Box mb="2">Send this link to whom it is meant for. It works once, for 14 days, and is shown only now.</Box>
      <TextField label="link" value={link} mono readOnly lines={3} onChange={() => undefined} />
    </Window>
  )
}

function Naming({ project }: { project: ProjectShown }) {
  const client = useQueryClient()
  const [form, setForm] = useState(false)
  const [name, setName] = useState(project.name)
  const send = async () => {
    await api.PUT('/api/projects/{project}', { params: { path: { project: project.slug } }, body: { name } })
    invalidate(client, project.slug, 'project')
    await client.invalidateQueries({ queryKey: projectsQuery.queryKey })
  }
  return (
    <Part title="Name">
      <Flex gap="4" align="baseline">
        <Box>
          {project.name}{' '}
          <Box as="span" color="second">
            · its address is /p/{project.slug} and stays
          </Box>
        </Box>
        {project.role === 'lead' && <LinkAct onClick={() => setForm(true)}>rename</LinkAct>}
      </Flex>
      {form && (
        <FormWindow title="Rename the project" send="rename" fields={['name']} onClose={() => setForm(false)} onSend={send}>
          {(errorOf) => <TextField label="name" value={name} autoFocus error={errorOf('name')} onChange={setName} />}
        </FormWindow>
      )}
    </Part>
  )
}

function Archive({ project }: { project: string }) {
  return (
    <Part
      title="Export"
      about="One file with the scheme and its versions, texts, annotation and who signed it, the log, lists, rules, taggers, scorecards and records, in open formats. It can be brought back here or elsewhere, under Projects."
    >
      <Box asChild color="action" textDecoration="underline" textUnderlineOffset="3px">
        <a href={`/api/projects/${project}/archive`} download>
          export the project
        </a>
      </Box>
    </Part>
  )
}

function Leaving({ project }: { project: ProjectShown }) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const [sure, setSure] = useState<'leave' | 'bin' | null>(null)
  const path = { project: project.slug }
  const gone = async () => {
    await client.invalidateQueries({ queryKey: projectsQuery.queryKey })
    await navigate('/projects')
  }
  return (
    <Part title="Leave or remove">
      <Flex gap="2">
        <QuietAct onClick={() => setSure('leave')}>leave the project</QuietAct>
        {project.role === 'lead' && <BadAct onClick={() => setSure('bin')}>move it to the bin</BadAct>}
      </Flex>
      {sure === 'leave' && (
        <Sure
          title={`Leave ${project.name}?`}
          act="leave"
          onClose={() => setSure(null)}
          onSure={async () => {
            await api.POST('/api/projects/{project}/leave', { params: { path } })
            await gone()
          }}
        >
          You see nothing of it any more. What you marked and signed stays. To come back you need an invitation.
        </Sure>
      )}
      {sure === 'bin' && (
        <Sure
          title={`Move ${project.name} to the bin?`}
          act="move to the bin"
          onClose={() => setSure(null)}
          onSure={async () => {
            await api.DELETE('/api/projects/{project}', { params: { path } })
            await gone()
          }}
        >
          Nobody can work in it then. It can be restored for 30 days, under Projects; after that it is deleted for good.
        </Sure>
      )}
    </Part>
  )
}
