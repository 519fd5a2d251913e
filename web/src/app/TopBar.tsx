import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { memo } from 'react'
import { NavLink } from 'react-router'

import { figuresQuery, projectQuery } from '../api/project'
import type { PersonShown } from '../api/schema'
import { type Place, PLACES } from './places'
import { PersonMenu, ProjectMenu } from './menus'

// Going from sentence to sentence changes the address, but nothing in here: it is not drawn again for that.

/** The places in working order, each with its live figure. */
export const TopBar = memo(function TopBar({ project, me }: { project: string; me: PersonShown }) {
  const { data: figures } = useQuery(figuresQuery(project))
  const role = useQuery(projectQuery(project)).data?.role
  return (
    <Flex as="header" bg="bar" color="onBar" align="stretch" minW="0">
      <Box asChild position="absolute" top="-10" left="2" bg="paper" color="ink" p="2" zIndex="max" _focus={{ top: '2' }}>
        <a href="#main">skip to the main part</a>
      </Box>
      <ProjectMenu project={project} />
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
      <Flex align="center">
        <PersonMenu me={me} role={role} />
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
    <NavLink to={`/p/${project}/${place.path}`} className={({ isActive }) => (isActive ? 'placeTab here' : 'placeTab')} title={stale ? `Out of date: ${stale}.` : undefined}>
      <b>{place.name}</b>
      <span data-figure={place.path} title={figure}>
        {figure || '\u00a0'}
      </span>
      {stale && <i role="img" aria-label={`out of date: ${stale}`} />}
    </NavLink>
  )
})
