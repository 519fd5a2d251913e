import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { meQuery } from '../../api/project'
import { LinkAct, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { plural } from '../../parts/words'
import { flush, type Line as State, useOutbox } from './outbox'

const WORDS: Record<Exclude<State, 'open'>, string> = {
  away: 'The server is out of reach.',
  busy: 'The server is busy.',
  'signed out': 'You are signed out.',
}

/** Why acts wait, for as long as they do. */
export function Line() {
  const line = useOutbox((s) => s.line)
  const count = useOutbox((s) => s.pending.length)
  const [asking, setAsking] = useState(false)
  if (line === 'open' || count === 0) return null
  const wait = `${plural(count, 'act')} ${count === 1 ? 'waits' : 'wait'} here and will be sent`
  return (
    <Box bg="goldGround" color="gold" textAlign="center" fontSize="small" py="0.5" role="status">
      {WORDS[line]} {line === 'signed out' ? `${wait} when you are back; ` : `${wait}; go on working.`}
      {line === 'signed out' && <LinkAct onClick={() => setAsking(true)}>sign in again</LinkAct>}
      {line === 'signed out' && asking && <SignInAgain onClose={() => setAsking(false)} />}
    </Box>
  )
}

/** The same account, without leaving the page. */
function SignInAgain({ onClose }: { onClose: () => void }) {
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
