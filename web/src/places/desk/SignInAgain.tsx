import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { meQuery } from '../../api/project'
import { LinkAct, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { flush } from './outbox'

/** The same account, without leaving the page. */
export function SignInAgain({ onClose }: { onClose: () => void }) {
  const me = useQuery(meQuery).data
  const [password, setPassword] = useState('')
  const send = async () => {
    await api.POST('/api/sign-in', { body: { login: me?.login ?? '', password } })
    // Whether what waits goes through is told by the line above the page, not by this window.
    void flush()
  }
  return (
    <FormWindow title={`Sign in again as ${me?.name ?? ''}`} send="sign in" fields={[]} onSend={send} onClose={onClose}>
      {() => (
        <>
          <TextField label="password" type="password" autoComplete="current-password" autoFocus value={password} onChange={setPassword} />
          <Box color="second" fontSize="small" mb="2">
            Signed in by a link? Open one in another window, then{' '}
            <LinkAct
              onClick={() => {
                void flush()
                onClose()
              }}
            >
              send what waits
            </LinkAct>
            .
          </Box>
        </>
      )}
    </FormWindow>
  )
}
