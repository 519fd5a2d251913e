import { Box } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { type SubmitEvent, useEffect, useRef, useState } from 'react'
import { useNavigate } from 'react-router'

import { api, messageOf } from '../api/client'
import { Act, TextField } from '../parts/controls'

/** Sign in with login and password, or by a link that works once (its token stands behind the #). */
export function SignIn() {
  const [login, setLogin] = useState('')
  const [password, setPassword] = useState('')
  const client = useQueryClient()
  const navigate = useNavigate()
  const used = useRef('')

  const { mutate: enter, error, isPending } = useMutation({
    mutationFn: (send: () => Promise<unknown>) => send(),
    onSuccess: async () => {
      client.clear()
      await navigate('/', { replace: true })
    },
  })

  useEffect(() => {
    const takeLink = () => {
      const token = window.location.hash.slice(1)
      if (!token || used.current === token) return
      used.current = token
      // The token is gone from the address before anything else happens.
      window.history.replaceState(null, '', '/sign-in')
      enter(() => api.POST('/api/sign-in/link', { body: { token } }))
    }
    takeLink()
    // A link that is pasted while this page is open changes no more than what stands behind the #.
    window.addEventListener('hashchange', takeLink)
    return () => window.removeEventListener('hashchange', takeLink)
    // Once, when the page opens.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])

  const submit = (event: SubmitEvent) => {
    event.preventDefault()
    if (!isPending) enter(() => api.POST('/api/sign-in', { body: { login, password } }))
  }

  return (
    <Box h="full" bg="ground" overflow="auto">
      <Box bg="bar" h="bar" color="onBar" px="3.5" pt="2.5" fontFamily="heading" fontSize="head">
        Urdaten
      </Box>
      <Box as="main" maxW="signIn" mx="auto" mt="16" bg="paper" p="6" borderWidth="1px" borderColor="hairline">
        <Box as="h1" fontFamily="heading" fontSize="head" mb="3">
          Sign in
        </Box>
        <form onSubmit={submit}>
          <TextField label="login" value={login} autoComplete="username" onChange={setLogin} autoFocus />
          <TextField label="password" type="password" autoComplete="current-password" value={password} onChange={setPassword} />
          {error && (
            <Box color="bad" role="alert" mb="2">
              {messageOf(error)}
            </Box>
          )}
          <Act type="submit" loading={isPending} disabled={login === '' || password === ''}>
            sign in
          </Act>
        </form>
        <Box mt="4" fontSize="small" color="second">
          The window in which ./start runs shows a link that signs in once, and the accounts of the demo.
        </Box>
      </Box>
    </Box>
  )
}
