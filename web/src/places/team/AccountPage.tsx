import { Box, Table } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { meQuery } from '../../api/project'
import type { PersonShown, SessionShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, LinkAct, TextField } from '../../parts/controls'
import { tell } from '../../parts/notes'
import { useAct } from '../../parts/useAct'
import { FormWindow } from '../../parts/Window'
import { moment } from '../../parts/words'
import { Page, Part } from './Page'
import { sessionsQuery } from './queries'

/** One's own name, password and sessions. */
export function AccountPage() {
  const me = useQuery(meQuery)
  return (
    <Ask query={me}>
      {(person) => (
        <Page title="Your account">
          <Naming me={person} />
          <Password />
          <Sessions />
        </Page>
      )}
    </Ask>
  )
}

function Naming({ me }: { me: PersonShown }) {
  const client = useQueryClient()
  const [form, setForm] = useState(false)
  const [name, setName] = useState(me.name)
  const send = async () => {
    await api.PUT('/api/me', { body: { name } })
    await client.invalidateQueries({ queryKey: meQuery.queryKey })
  }
  return (
    <Part title="Name">
      {me.name}{' '}
      <Box as="span" color="second" mr="4">
        · signs in as {me.login}
      </Box>
      <LinkAct onClick={() => setForm(true)}>rename</LinkAct>
      {form && (
        <FormWindow title="Your name" send="rename" fields={['name']} onClose={() => setForm(false)} onSend={send}>
          {(errorOf) => <TextField label="name" value={name} autoFocus help="Others see it beside what you signed." error={errorOf('name')} onChange={setName} />}
        </FormWindow>
      )}
    </Part>
  )
}

function Password() {
  const [form, setForm] = useState(false)
  return (
    <Part title="Password" about="Another password ends your sessions everywhere else.">
      <Act onClick={() => setForm(true)}>change password</Act>
      {form && <PasswordForm onClose={() => setForm(false)} />}
    </Part>
  )
}

function PasswordForm({ onClose }: { onClose: () => void }) {
  const client = useQueryClient()
  const [old, setOld] = useState('')
  const [fresh, setFresh] = useState('')
  const send = async () => {
    await api.PUT('/api/me/password', { body: { old, new: fresh } })
    await client.invalidateQueries({ queryKey: sessionsQuery.queryKey })
    tell('Your password is changed.')
  }
  return (
    <FormWindow title="Change your password" send="save" fields={['old', 'new']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <TextField label="current password" type="password" autoComplete="current-password" value={old} autoFocus error={errorOf('old')} onChange={setOld} />
          <TextField label="new password" type="password" autoComplete="new-password" value={fresh} help="10 characters at least" error={errorOf('new')} onChange={setFresh} />
        </>
      )}
    </FormWindow>
  )
}

function Sessions() {
  const query = useQuery(sessionsQuery)
  const changes = sessionsQuery.queryKey
  const end = useAct((id: number) => api.DELETE('/api/me/sessions/{session_id}', { params: { path: { session_id: id } } }), { changes })
  const endOthers = useAct(() => api.DELETE('/api/me/sessions'), { changes })
  return (
    <Part title="Where you are signed in" about="A session ends a week after it was last used, and after 30 days in any case.">
      <Ask query={query}>
        {(sessions) => (
          <>
            <Table.Root size="sm" aria-label="sessions" mb="3">
              <Table.Header>
                <Table.Row>
                  <Table.ColumnHeader ps="0">browser</Table.ColumnHeader>
                  <Table.ColumnHeader>last used</Table.ColumnHeader>
                  <Table.ColumnHeader>signed in</Table.ColumnHeader>
                  <Table.ColumnHeader />
                </Table.Row>
              </Table.Header>
              <Table.Body>
                {sessions.map((session) => (
                  <Table.Row key={session.id}>
                    <Table.Cell ps="0">{browserOf(session)}</Table.Cell>
                    <Table.Cell color="second">{moment(session.seen_at)}</Table.Cell>
                    <Table.Cell color="second">{moment(session.created_at)}</Table.Cell>
                    <Table.Cell textAlign="end">
                      {session.own ? (
                        'this one'
                      ) : (
                        <LinkAct loading={end.of === session.id} onClick={() => end.run(session.id)}>
                          end
                        </LinkAct>
                      )}
                    </Table.Cell>
                  </Table.Row>
                ))}
              </Table.Body>
            </Table.Root>
            {sessions.length > 1 && (
              <Act loading={endOthers.busy} onClick={() => endOthers.run()}>
                sign out everywhere else
              </Act>
            )}
          </>
        )}
      </Ask>
    </Part>
  )
}

const BROWSERS = ['Edg', 'Firefox', 'Chrome', 'Safari'] as const
const SYSTEMS = ['Windows', 'Android', 'iPhone', 'Mac OS', 'Linux'] as const

/** What a browser calls itself, made short. */
export function browserOf({ agent }: Pick<SessionShown, 'agent'>): string {
  const browser = BROWSERS.find((name) => agent.includes(name))
  const system = SYSTEMS.find((name) => agent.includes(name))
  if (!browser) return agent || 'unknown'
  return `${browser === 'Edg' ? 'Edge' : browser}${system ? ` on ${system}` : ''}`
}
