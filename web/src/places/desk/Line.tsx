import { Box } from '@chakra-ui/react'
import { useState } from 'react'

import { LinkAct } from '../../parts/controls'
import { later } from '../../parts/later'
import { plural } from '../../parts/words'
import { type Line as State, useOutbox } from './outbox'

const SignInAgain = later(async () => (await import('./SignInAgain')).SignInAgain)

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
