import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Link, Navigate } from 'react-router'

import { projectsQuery } from '../api/project'
import { Ask } from '../parts/Ask'
import { Empty, Title } from '../parts/layout'
import { useGuest } from './useGuest'

/** To the project; with several, to choose one. */
export function Entrance() {
  const guest = useGuest()
  const projects = useQuery({ ...projectsQuery, enabled: !guest })
  if (guest) return <Navigate to="/sign-in" replace />
  return (
    <Ask query={projects}>
      {(list) =>
        list.length === 1 && list[0] ? (
          <Navigate to={`/p/${list[0].slug}/desk`} replace />
        ) : list.length === 0 ? (
          <Empty>There is no project yet. ./start loads the demo project into an empty database.</Empty>
        ) : (
          <Box p="8">
            <Title>Projects</Title>
            {list.map((project) => (
              <Box key={project.slug} asChild color="action" display="block" py="1">
                <Link to={`/p/${project.slug}/desk`}>{project.name}</Link>
              </Box>
            ))}
          </Box>
        )
      }
    </Ask>
  )
}
