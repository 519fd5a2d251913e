import { Box, Flex } from '@chakra-ui/react'
import { Link } from 'react-router'

import { useProject } from '../../api/project'

const TABS = [
  ['', 'texts'],
  ['/findings', 'findings'],
  ['/table', 'table'],
] as const

/** The same texts, one by one, by what is in them, or as a table; the filter goes along. */
export function TextsTabs({ at, search }: { at: (typeof TABS)[number][0]; search: string }) {
  const project = useProject()
  return (
    <Flex asChild gap="4" px="3" pt="3" align="baseline">
      <nav aria-label="views of the texts">
        {TABS.map(([path, label]) => (
          <Box key={path} asChild color={path === at ? 'ink' : 'action'} fontWeight={path === at ? 'bold' : 'normal'} borderBottomWidth="2px" borderColor={path === at ? 'action' : 'transparent'}>
            <Link to={{ pathname: `/p/${project}/texts${path}`, search }} aria-current={path === at ? 'page' : undefined}>
              {label}
            </Link>
          </Box>
        ))}
      </nav>
    </Flex>
  )
}
