import { Box, Menu, Portal } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { useNavigate } from 'react-router'

import { api } from '../api/client'
import type { PersonShown } from '../api/schema'
import { tellError } from '../parts/notes'
import { chooseScheme, type Scheme, useScheme } from '../theme/scheme'

const SCHEMES: readonly [Scheme, string][] = [
  ['system', 'light or dark as the system'],
  ['light', 'light'],
  ['dark', 'dark'],
]

/** Under one's own name: the account, everybody's for whoever looks after the server, and the way out. */
export function PersonMenu({ me, role }: { me: PersonShown; role?: string | undefined }) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const { scheme } = useScheme()
  const leave = async () => {
    try {
      await api.POST('/api/sign-out')
      client.clear()
      await navigate('/sign-in')
    } catch (fault) {
      tellError(fault)
    }
  }
  return (
    <Menu.Root>
      <Menu.Trigger asChild>
        <Box as="button" fontSize="small" whiteSpace="nowrap" px="3" py="1" cursor="pointer" color="onBar" _hover={{ textDecoration: 'underline' }}>
          {role ? `${me.name} · ${role}` : me.name} ▾
        </Box>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="paper" borderWidth="1px" borderColor="hairline" borderRadius="sm" boxShadow="none">
            <Menu.Item value="account" onClick={() => void navigate('/account')}>
              your account
            </Menu.Item>
            {me.keeper && (
              <Menu.Item value="accounts" onClick={() => void navigate('/accounts')}>
                accounts of this server
              </Menu.Item>
            )}
            <Menu.Separator borderColor="hairline" />
            <Menu.RadioItemGroup value={scheme} onValueChange={({ value }) => chooseScheme(value as Scheme)}>
              {SCHEMES.map(([value, label]) => (
                <Menu.RadioItem key={value} value={value}>
                  {label}
                  <Menu.ItemIndicator>✓</Menu.ItemIndicator>
                </Menu.RadioItem>
              ))}
            </Menu.RadioItemGroup>
            <Menu.Separator borderColor="hairline" />
            <Menu.Item value="leave" onClick={() => void leave()}>
              sign out
            </Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  )
}
