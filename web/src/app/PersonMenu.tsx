import { Menu, Portal } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { useNavigate } from 'react-router'

import { api } from '../api/client'
import type { Opened } from '../parts/later'
import { useAct } from '../parts/useAct'
import { PersonFace, type PersonProps } from './faces'
import { chooseScheme, type Scheme, useScheme } from '../theme/scheme'

const SCHEMES: readonly [Scheme, string][] = [
  ['system', 'light or dark as the system'],
  ['light', 'light'],
  ['dark', 'dark'],
]

/** Under one's own name: the account, everybody's for whoever looks after the server, and the way out. */
export function PersonMenu({ me, role, opened }: PersonProps & Opened) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const { scheme } = useScheme()
  const leave = useAct(() => api.POST('/api/sign-out'), {
    onDone: () => {
      client.clear()
      void navigate('/sign-in')
    },
  })
  return (
    <Menu.Root defaultOpen={opened}>
      <Menu.Trigger asChild>
        <PersonFace me={me} role={role} />
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content>
            <Menu.Item value="account" onClick={() => void navigate('/account')}>
              your account
            </Menu.Item>
            {me.keeper && (
              <Menu.Item value="accounts" onClick={() => void navigate('/accounts')}>
                accounts of this server
              </Menu.Item>
            )}
            <Menu.Separator />
            <Menu.RadioItemGroup value={scheme} onValueChange={({ value }) => chooseScheme(value as Scheme)}>
              {SCHEMES.map(([value, label]) => (
                <Menu.RadioItem key={value} value={value}>
                  {label}
                  <Menu.ItemIndicator>✓</Menu.ItemIndicator>
                </Menu.RadioItem>
              ))}
            </Menu.RadioItemGroup>
            <Menu.Separator />
            <Menu.Item value="leave" onClick={() => leave.run()}>
              sign out
            </Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  )
}
