import { Box, Menu, Portal } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router'

import { projectsQuery } from '../api/project'
import { ProjectFace } from './faces'
import type { Opened } from '../parts/later'
import { moment, percent, plural } from '../parts/words'

/** The project's name; it opens those that one belongs to. */
export function ProjectMenu({ project, opened }: { project: string } & Opened) {
  const { data: projects, refetch } = useQuery(projectsQuery)
  const navigate = useNavigate()
  const others = projects?.filter((p) => p.removed_at === null && p.slug !== project) ?? []
  const here = projects?.find((p) => p.slug === project)
  return (
    <Menu.Root defaultOpen={opened} onOpenChange={({ open }) => open && void refetch()}>
      <Menu.Trigger asChild>
        <ProjectFace project={project} />
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content minW="72">
            <Menu.Item value="here" onClick={() => void navigate(`/p/${project}/project`)}>
              <Entry name="people and settings of this project" about={here && about(here)} />
            </Menu.Item>
            {others.length > 0 && <Menu.Separator />}
            {others.map((other) => (
              <Menu.Item key={other.slug} value={other.slug} onClick={() => void navigate(`/p/${other.slug}`)}>
                <Entry name={other.name} about={about(other)} />
              </Menu.Item>
            ))}
            <Menu.Separator />
            <Menu.Item value="all" onClick={() => void navigate('/projects')}>
              all projects, and a new one
            </Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  )
}

interface Figures {
  texts: number
  sentences: number
  signed: number
  changed_at: string
}

function about({ texts, sentences, signed, changed_at }: Figures): string {
  const share = sentences === 0 ? 'no sentence yet' : `${percent(signed, sentences)} signed`
  return `${plural(texts, 'text')} · ${share} · last change ${moment(changed_at)}`
}

function Entry({ name, about: figures }: { name: string; about: string | undefined }) {
  return (
    <Box>
      <Box>{name}</Box>
      {figures && (
        <Box fontSize="tiny" color="second">
          {figures}
        </Box>
      )}
    </Box>
  )
}
