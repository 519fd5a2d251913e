import { Box, type BoxProps, Flex, type FlexProps } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { projectQuery } from '../api/project'
import type { PersonShown } from '../api/schema'

/*
 * What opens the menus of the bar. They are drawn at once; the menus come later.
 */

export interface PersonProps {
  me: PersonShown
  role?: string | undefined
}

export function PersonFace({ me, role, ...trigger }: PersonProps & Omit<BoxProps, 'role'>) {
  return (
    <Box as="button" fontSize="small" whiteSpace="nowrap" px="3" py="1" cursor="pointer" color="onBar" _hover={{ textDecoration: 'underline' }} {...trigger}>
      {role ? `${me.name} · ${role}` : me.name} ▾
    </Box>
  )
}

export function ProjectFace({ project, ...trigger }: { project: string } & FlexProps) {
  const { data } = useQuery(projectQuery(project))
  return (
    <Flex
      as="button"
      direction="column"
      align="flex-start"
      px="3.5"
      pt="2"
      minW="36"
      maxW="52"
      borderRightWidth="1px"
      borderColor="second"
      cursor="pointer"
      textAlign="left"
      _hover={{ bg: 'barHover' }}
      {...trigger}
    >
      <Box fontFamily="heading" fontSize="head" lineHeight="1.2">
        Urdaten
      </Box>
      <Box fontSize="tiny" color="onBarSecond" truncate maxW="full">
        {data?.name ?? project} ▾
      </Box>
    </Flex>
  )
}
