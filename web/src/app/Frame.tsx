import { Box, Grid } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Navigate, Outlet } from 'react-router'

import { useLive } from '../api/live'
import { meQuery, useProject } from '../api/project'
import { AllKeys, KeyStrip } from './KeyStrip'
import { Notes } from './Notes'
import { TopBar } from './TopBar'
import { useGuest } from './useGuest'

/** Top bar, the place itself, and the strip of keys. */
export function Frame() {
  const guest = useGuest()
  const me = useQuery(meQuery)
  if (guest) return <Navigate to="/sign-in" replace />
  if (!me.data) return null
  return <SignedIn name={me.data.name} role={me.data.role} />
}

function SignedIn({ name, role }: { name: string; role: string }) {
  const project = useProject()
  const [help, setHelp] = useState(false)
  useLive(project)
  return (
    <Grid h="full" templateRows="var(--chakra-sizes-bar) minmax(0, 1fr) var(--chakra-sizes-strip)">
      <TopBar project={project} name={name} role={role} />
      <Box minH="0">
        <Outlet />
      </Box>
      <KeyStrip onHelp={() => setHelp(true)} />
      {help && <AllKeys onClose={() => setHelp(false)} />}
      <Notes />
    </Grid>
  )
}
