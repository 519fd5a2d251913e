import { Box, Flex, Grid } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Navigate, NavLink, Outlet, useNavigate } from 'react-router'

import { api } from '../api/client'
import { useLive } from '../api/live'
import { figuresQuery, meQuery, projectsQuery, useProject } from '../api/project'
import { QuietAct } from '../parts/controls'
import { tellError } from '../parts/notes'
import { AllKeys, KeyStrip } from './KeyStrip'
import { Notes } from './Notes'
import { type Place, PLACES } from './places'
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
  const { data: projects } = useQuery(projectsQuery)
  const { data: figures } = useQuery(figuresQuery(project))
  const client = useQueryClient()
  const navigate = useNavigate()
  useLive(project)
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
    <Grid h="full" templateRows="var(--chakra-sizes-bar) minmax(0, 1fr) var(--chakra-sizes-strip)">
      <Flex as="header" bg="bar" color="onBar" align="stretch" minW="0">
        <Box asChild position="absolute" top="-10" left="2" bg="paper" color="ink" p="2" zIndex="max" _focus={{ top: '2' }}>
          <a href="#main">to the middle of the page</a>
        </Box>
        <Box px="3.5" pt="2" minW="36" borderRightWidth="1px" borderColor="second">
          <Box fontFamily="heading" fontSize="head" lineHeight="1.2">
            Urdaten
          </Box>
          <Box fontSize="tiny" color="onBarSecond" whiteSpace="nowrap">
            {projects?.find((p) => p.slug === project)?.name ?? project}
          </Box>
        </Box>
        <Flex as="nav" aria-label="places" flex="1" minW="0" overflowX="auto">
          {PLACES.map((place) => (
            <PlaceTab
              key={place.path}
              place={place}
              figure={figures ? place.figure(figures) : ''}
              stale={figures?.stale[place.path]}
            />
          ))}
        </Flex>
        <Flex align="center" gap="1" px="3" fontSize="small" whiteSpace="nowrap">
          {name} · {role}
          <QuietAct color="onBarSecond" _hover={{ bg: 'transparent', color: 'onBar' }} onClick={() => void leave()}>
            sign out
          </QuietAct>
        </Flex>
      </Flex>
      <Box minH="0">
        <Outlet />
      </Box>
      <KeyStrip onHelp={() => setHelp(true)} />
      {help && <AllKeys onClose={() => setHelp(false)} />}
      <Notes />
    </Grid>
  )
}

function PlaceTab({ place, figure, stale }: { place: Place; figure: string; stale: string[] | undefined }) {
  const project = useProject()
  return (
    <NavLink to={`/p/${project}/${place.path}`} style={{ display: 'block' }}>
      {({ isActive }) => (
        <Box
          position="relative"
          h="full"
          px="3"
          pt="2.5"
          bg={isActive ? 'paper' : 'transparent'}
          color={isActive ? 'ink' : 'onBar'}
          _hover={isActive ? {} : { bg: 'second' }}
          title={stale ? `Out of date: ${stale.join('; ')}.` : undefined}
        >
          <Box fontSize="ui" fontWeight="bold">
            {place.name}
          </Box>
          <Box fontSize="tiny" whiteSpace="nowrap" color={isActive ? 'second' : 'onBarSecond'} data-figure={place.path}>
            {figure || '\u00a0'}
          </Box>
          {stale && (
            <Box
              position="absolute"
              top="2.5"
              right="2"
              w="1.5"
              h="1.5"
              borderRadius="full"
              bg="amber"
              role="img"
              aria-label={`out of date: ${stale.join('; ')}`}
            />
          )}
        </Box>
      )}
    </NavLink>
  )
}
