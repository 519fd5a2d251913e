import { Box, Flex } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { memo } from 'react'
import { NavLink, useNavigate } from 'react-router'

import { api } from '../api/client'
import { figuresQuery, projectsQuery } from '../api/project'
import { QuietAct } from '../parts/controls'
import { tellError } from '../parts/notes'
import { type Place, PLACES } from './places'

// Going from sentence to sentence changes the address, but nothing in here: it is not drawn again for that.

/** The places in working order, each with its live figure. */
export const TopBar = memo(function TopBar({ project, name, role }: { project: string; name: string; role: string }) {
  const { data: projects } = useQuery(projectsQuery)
  const { data: figures } = useQuery(figuresQuery(project))
  const client = useQueryClient()
  const navigate = useNavigate()
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
            project={project}
            place={place}
            figure={figures ? place.figure(figures) : ''}
            stale={figures?.stale[place.path]?.join('; ')}
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
  )
})

interface PlaceTabProps {
  project: string
  place: Place
  figure: string
  stale: string | undefined
}

const PlaceTab = memo(function PlaceTab({ project, place, figure, stale }: PlaceTabProps) {
  return (
    <NavLink to={`/p/${project}/${place.path}`} style={{ display: 'block' }}>
      {({ isActive }) => <Face place={place} figure={figure} stale={stale} isActive={isActive} />}
    </NavLink>
  )
})

const Face = memo(function Face({ place, figure, stale, isActive }: Omit<PlaceTabProps, 'project'> & { isActive: boolean }) {
  return (
    <Box
      position="relative"
      h="full"
      px="3"
      pt="2.5"
      bg={isActive ? 'paper' : 'transparent'}
      color={isActive ? 'ink' : 'onBar'}
      _hover={isActive ? {} : { bg: 'second' }}
      title={stale ? `Out of date: ${stale}.` : undefined}
    >
      <Box fontSize="ui" fontWeight="bold">
        {place.name}
      </Box>
      <Box fontSize="tiny" whiteSpace="nowrap" color={isActive ? 'second' : 'onBarSecond'} data-figure={place.path}>
        {figure || '\u00a0'}
      </Box>
      {stale && (
        <Box position="absolute" top="2.5" right="2" w="1.5" h="1.5" borderRadius="full" bg="amber" role="img" aria-label={`out of date: ${stale}`} />
      )}
    </Box>
  )
})
