import { Box, Flex, Grid } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, Navigate, Outlet, useLocation } from 'react-router'

import { ProblemError } from '../api/client'
import { useLive } from '../api/live'
import { meQuery, projectQuery, useProject } from '../api/project'
import type { PersonShown } from '../api/schema'
import { later } from '../parts/later'
import { Keeper } from '../places/desk/Keeper'
import { KeyStrip } from './KeyStrip'
import { rememberProject } from './lastProject'
import { PLACES } from './places'
import { PersonMenu } from './menus'
import { Notes } from './NotesHere'
import { TopBar } from './TopBar'
import { useAccountKeys } from './useAccountKeys'
import { useGuest } from './useGuest'

const Guide = later(async () => (await import('./Guide')).Guide)
const AllKeys = later(async () => (await import('./AllKeys')).AllKeys)

/** Top bar, the place itself, and the strip of keys. */
export function Frame() {
  const guest = useGuest()
  const me = useQuery(meQuery)
  if (guest) return <Navigate to="/sign-in" replace />
  if (!me.data) return null
  return <SignedIn me={me.data} />
}

const ROWS = 'var(--chakra-sizes-bar) minmax(0, 1fr) var(--chakra-sizes-strip)'

function SignedIn({ me }: { me: PersonShown }) {
  const project = useProject()
  const [help, setHelp] = useState<'keys' | 'guide' | null>(null)
  useLive(project)
  useAccountKeys()
  const { error, data } = useQuery({ ...projectQuery(project), retry: (count, fault) => count < 2 && !isGone(fault) })
  useEffect(() => {
    if (data) rememberProject(project)
  }, [data, project])
  if (isGone(error)) return <Gone />
  return (
    <Grid h="full" templateColumns="minmax(0, 1fr)" templateRows={ROWS}>
      <PlaceTitle name={data?.name} />
      <TopBar project={project} me={me} />
      <Flex direction="column" minH="0">
        <Keeper />
        <Box flex="1" minH="0">
          <Outlet />
        </Box>
      </Flex>
      <KeyStrip onHelp={() => setHelp('keys')} onGuide={() => setHelp('guide')} />
      {help === 'keys' && <AllKeys onClose={() => setHelp(null)} />}
      {help === 'guide' && <Guide onClose={() => setHelp(null)} />}
      <Notes />
    </Grid>
  )
}

/** Names the page in the browser; by itself, so that going from sentence to sentence draws nothing else of the frame anew. */
function PlaceTitle({ name }: { name: string | undefined }) {
  const path = useLocation().pathname.split('/')[3]
  const place = PLACES.find((one) => one.path === path)?.name
  useEffect(() => {
    document.title = [place, name, 'Urdaten'].filter(Boolean).join(' · ')
  }, [place, name])
  return null
}

const isGone = (error: unknown) => error instanceof ProblemError && error.status === 404

function Gone() {
  return (
    <Box p="8" maxW="prose" role="alert">
      <Box as="h1" fontFamily="heading" fontSize="head" mb="2">
        You have no such project
      </Box>
      <Box mb="3">It may be in the bin, or you are no longer a member of it. Ask one of its leads.</Box>
      <Box asChild color="action">
        <Link to="/projects">your projects</Link>
      </Box>
    </Box>
  )
}

/** Pages that belong to no project. */
export function PlainFrame() {
  const guest = useGuest()
  const me = useQuery(meQuery)
  if (guest) return <Navigate to="/sign-in" replace />
  if (!me.data) return null
  return <PlainPage me={me.data} />
}

const TITLES: Record<string, string> = { '/projects': 'Projects', '/account': 'Your account', '/accounts': 'Accounts' }

function PlainPage({ me }: { me: PersonShown }) {
  const { pathname } = useLocation()
  useEffect(() => {
    document.title = [TITLES[pathname], 'Urdaten'].filter(Boolean).join(' · ')
  }, [pathname])
  const [help, setHelp] = useState<'keys' | 'guide' | null>(null)
  useAccountKeys()
  return (
    <Grid h="full" templateColumns="minmax(0, 1fr)" templateRows={ROWS}>
      <Flex as="header" bg="bar" color="onBar" align="center" justify="space-between" px="3.5">
        <Box asChild fontFamily="heading" fontSize="head">
          <Link to="/projects">Urdaten</Link>
        </Box>
        <PersonMenu me={me} />
      </Flex>
      <Flex direction="column" minH="0">
        <Keeper />
        <Box flex="1" minH="0">
          <Outlet />
        </Box>
      </Flex>
      <KeyStrip onHelp={() => setHelp('keys')} onGuide={() => setHelp('guide')} />
      {help === 'keys' && <AllKeys onClose={() => setHelp(null)} />}
      {help === 'guide' && <Guide onClose={() => setHelp(null)} />}
      <Notes />
    </Grid>
  )
}
