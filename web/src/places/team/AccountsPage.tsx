import { Box, Table } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body } from '../../api/client'
import { meQuery } from '../../api/project'
import type { AccountShown, AccountWish } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, LinkAct, QuietAct, TextField } from '../../parts/controls'
import { tell } from '../../parts/notes'
import { useAct } from '../../parts/useAct'
import { FormWindow, Sure, Window } from '../../parts/Window'
import { Page } from './Page'
import { accountsQuery } from './queries'

/** Everybody's accounts, for whoever looks after the server. */
export function AccountsPage() {
  const query = useQuery(accountsQuery)
  const me = useQuery(meQuery).data
  const [form, setForm] = useState(false)
  const [link, setLink] = useState('')
  return (
    <Page title="Accounts" side={<Act onClick={() => setForm(true)}>new account</Act>}>
      <Box color="second" mb="4" maxW="prose">
        Who can sign in to this server. An account alone opens no project: a lead invites people to each.
      </Box>
      <Ask query={query}>
        {(accounts) => (
          <Table.Root size="sm" aria-label="accounts">
            <Table.Header>
              <Table.Row>
                <Table.ColumnHeader ps="0">name</Table.ColumnHeader>
                <Table.ColumnHeader>login</Table.ColumnHeader>
                <Table.ColumnHeader>can sign in</Table.ColumnHeader>
                <Table.ColumnHeader>looks after the server</Table.ColumnHeader>
                <Table.ColumnHeader />
              </Table.Row>
            </Table.Header>
            <Table.Body>
              {accounts.map((account) => (
                <AccountRow key={account.id} account={account} own={account.id === me?.id} onLink={setLink} />
              ))}
            </Table.Body>
          </Table.Root>
        )}
      </Ask>
      {form && <AccountForm onClose={() => setForm(false)} />}
      {link && (
        <Window title="A sign-in link" stays onClose={() => setLink('')} footer={<QuietAct onClick={() => setLink('')}>close</QuietAct>}>
          <Box mb="2">It signs in once, for 12 hours, and is shown only now. Under their name people change their password then.</Box>
          <TextField label="link" value={link} mono readOnly lines={3} onChange={() => undefined} />
        </Window>
      )}
    </Page>
  )
}

function AccountRow({ account, own, onLink }: { account: AccountShown; own: boolean; onLink: (link: string) => void }) {
  const client = useQueryClient()
  const [sure, setSure] = useState(false)
  const path = { account_id: account.id }
  const change = async (wish: AccountWish) => {
    await api.PUT('/api/accounts/{account_id}', { params: { path }, body: wish })
    await client.invalidateQueries({ queryKey: accountsQuery.queryKey })
  }
  const changing = useAct(change)
  const linking = useAct(() => body(api.POST('/api/accounts/{account_id}/link', { params: { path } })), {
    onDone: ({ token }) => onLink(`${window.location.origin}/sign-in#${token}`),
  })
  return (
    <Table.Row color={account.active ? undefined : 'second'}>
      <Table.Cell ps="0">
        {account.name}
        {own && ' (you)'}
      </Table.Cell>
      <Table.Cell>{account.login}</Table.Cell>
      <Table.Cell>
        {account.active ? 'yes' : 'no'}{' '}
        {!own &&
          (account.active ? (
            <LinkAct onClick={() => setSure(true)}>switch off</LinkAct>
          ) : (
            <LinkAct loading={changing.busy} onClick={() => changing.run({ active: true })}>
              switch on
            </LinkAct>
          ))}
      </Table.Cell>
      <Table.Cell>
        {account.keeper ? 'yes' : 'no'}{' '}
        <LinkAct loading={changing.busy} onClick={() => changing.run({ keeper: !account.keeper })}>
          {account.keeper ? 'not any more' : 'let them'}
        </LinkAct>
      </Table.Cell>
      <Table.Cell textAlign="end">
        {account.active && (
          <LinkAct loading={linking.busy} onClick={() => linking.run()}>
            sign-in link
          </LinkAct>
        )}
      </Table.Cell>
      {sure && (
        <Sure title={`Switch off ${account.name}?`} act="switch off" onClose={() => setSure(false)} onSure={() => change({ active: false })}>
          {account.name} is signed out at once and cannot sign in any more. What they did stays, and the account can be switched on again.
        </Sure>
      )}
    </Table.Row>
  )
}

function AccountForm({ onClose }: { onClose: () => void }) {
  const client = useQueryClient()
  const [login, setLogin] = useState('')
  const [name, setName] = useState('')
  const [password, setPassword] = useState('')
  const send = async () => {
    await api.POST('/api/accounts', { body: { login, name, password } })
    await client.invalidateQueries({ queryKey: accountsQuery.queryKey })
    tell(`${name} can sign in.`)
  }
  return (
    <FormWindow title="New account" send="add" fields={['login', 'name', 'password']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <TextField label="name" value={name} autoFocus error={errorOf('name')} onChange={setName} />
          <TextField label="login" value={login} autoComplete="off" error={errorOf('login')} onChange={setLogin} />
          <TextField label="password" type="password" autoComplete="new-password" value={password} help="10 characters at least" error={errorOf('password')} onChange={setPassword} />
        </>
      )}
    </FormWindow>
  )
}
