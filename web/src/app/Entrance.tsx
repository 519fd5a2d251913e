import { useQuery } from '@tanstack/react-query'
import { Navigate } from 'react-router'

import { figuresQuery, projectsQuery, useProject } from '../api/project'
import { Ask } from '../parts/Ask'
import { lastProject } from './lastProject'
import { useGuest } from './useGuest'

/** To the project that was last open here; else to the choice of projects, which somebody who annotates in one need not make. */
export function Entrance() {
  const guest = useGuest()
  const projects = useQuery({ ...projectsQuery, enabled: !guest })
  if (guest) return <Navigate to="/sign-in" replace />
  return (
    <Ask query={projects}>
      {(list) => {
        const open = list.filter((p) => p.removed_at === null)
        const only = open.length === 1 && open[0]?.role !== 'lead' ? open[0] : undefined
        const goal = open.find((p) => p.slug === lastProject()) ?? only
        return <Navigate to={goal ? `/p/${goal.slug}` : '/projects'} replace />
      }}
    </Ask>
  )
}

/** Where work in a project begins: at the first place that is still empty, else at the Desk. */
export function Beginning() {
  const query = useQuery(figuresQuery(useProject()))
  return <Ask query={query}>{(figures) => <Navigate to={figures.types === 0 ? 'types' : figures.texts === 0 ? 'texts' : 'desk'} replace />}</Ask>
}
