import { Box, Flex } from '@chakra-ui/react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { type SubmitEvent, useState } from 'react'
import { useNavigate } from 'react-router'

import { api, body, messageOf, ProblemError } from '../../api/client'
import { meQuery } from '../../api/project'
import type { WelcomeShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, QuietAct, TextField } from '../../parts/controls'
import { invitationQuery } from './queries'

/** What an invitation is for, and the ways to take it up. The token stands behind the number sign. */
export function Invitation() {
  const [token] = useState(() => window.location.hash.slice(1))
  const query = useQuery(invitationQuery(token))
  const me = useQuery(meQuery).data
  return (
    <Box h="full" bg="ground" overflow="auto">
      <Box bg="bar" h="bar" color="onBar" px="3.5" pt="2.5" fontFamily="heading" fontSize="head">
        Urdaten
      </Box>
      <Box as="main" maxW="signIn" mx="auto" mt="16" bg="paper" p="6" borderWidth="1px" borderColor="hairline">
        <Ask query={query}>
          {(welcome) => (
            <>
              <Box as="h1" fontFamily="heading" fontSize="head" mb="2">
                {welcome.project}
              </Box>
              <Box mb="4">
                {welcome.invited_by || 'Somebody'} invites you to this project as {welcome.role === 'annotator' ? 'an' : 'a'} {welcome.role}.
              </Box>
              {me ? <Accept token={token} name={me.name} /> : <Join token={token} />}
            </>
          )}
        </Ask>
      </Box>
    </Box>
  )
}

function useEntering() {
  const client = useQueryClient()
  const navigate = useNavigate()
  const { mutate, error, isPending } = useMutation({
    mutationFn: (act: () => Promise<WelcomeShown>) => act(),
    onSuccess: async ({ slug }) => {
      client.clear()
      await navigate(`/p/${slug}`, { replace: true })
    },
  })
  return { error, busy: isPending, enter: mutate }
}

function Accept({ token, name }: { token: string; name: string }) {
  const { error, busy, enter } = useEntering()
  return (
    <>
      {error !== null && (
        <Box color="bad" role="alert" mb="2">
          {messageOf(error)}
        </Box>
      )}
      <Act loading={busy} onClick={() => enter(() => body(api.POST('/api/invitation/accept', { body: { token } })))}>
        join as {name}
      </Act>
    </>
  )
}

function Join({ token }: { token: string }) {
  const { error, busy, enter } = useEntering()
  const [known, setKnown] = useState(false)
  const [login, setLogin] = useState('')
  const [name, setName] = useState('')
  const [password, setPassword] = useState('')
  const field = error instanceof ProblemError ? error.field : undefined
  const errorOf = (wanted: string) => (field === wanted ? messageOf(error) : undefined)
  const join = async () => {
    if (!known) return body(api.POST('/api/invitation/join', { body: { token, login, name, password } }))
    await api.POST('/api/sign-in', { body: { login, password } })
    return body(api.POST('/api/invitation/accept', { body: { token } }))
  }
  const submit = (event: SubmitEvent) => {
    event.preventDefault()
    enter(join)
  }
  return (
    <form onSubmit={submit} noValidate>
      {!known && <TextField label="your name" value={name} autoComplete="name" autoFocus help="Others see it beside what you sign." error={errorOf('name')} onChange={setName} />}
      <TextField label="login" value={login} autoComplete="username" error={errorOf('login')} onChange={setLogin} />
      <TextField
        label="password"
        type="password"
        autoComplete={known ? 'current-password' : 'new-password'}
        value={password}
        help={known ? undefined : '10 characters at least'}
        error={errorOf('password')}
        onChange={setPassword}
      />
      {error !== null && !['name', 'login', 'password'].includes(field ?? '') && (
        <Box color="bad" role="alert" mb="2">
          {messageOf(error)}
        </Box>
      )}
      <Flex gap="2" align="center">
        <Act type="submit" loading={busy}>
          {known ? 'sign in and join' : 'make an account and join'}
        </Act>
        <QuietAct onClick={() => setKnown(!known)}>{known ? 'I have no account' : 'I have an account'}</QuietAct>
      </Flex>
    </form>
  )
}
