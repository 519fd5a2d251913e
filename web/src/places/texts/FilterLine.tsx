import { Box, Flex } from '@chakra-ui/react'
import { useState } from 'react'

import { LinkAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { number, plural } from '../../parts/words'
import { saidOf } from './filter'
import { FilterForm } from './FilterForm'
import type { useTextFilter } from './useTextFilter'

interface FilterLineProps {
  texts: ReturnType<typeof useTextFilter>
  /** Once they are known. */
  counts: { found: number; total: number } | undefined
}

/** What texts are searched by, how many there are, and the filter on demand. */
export function FilterLine({ texts: { filter, change, clear }, counts }: FilterLineProps) {
  const [open, setOpen] = useState(false)
  useKeys([{ keys: ['f'], caps: ['f'], label: open ? 'close the filter' : 'filter', run: () => setOpen(!open) }])
  const said = saidOf(filter)
  const filtered = said.length > 0 || filter.search !== ''
  return (
    <Box px="3" pt="3" borderBottomWidth="1px" borderColor="hairline">
      <TextField label="search titles and bodies" value={filter.search} onChange={(search) => change({ search })} />
      <Flex justify="space-between" gap="2" fontSize="small" color="second" pb="1.5">
        <span aria-live="polite">{!counts ? 'counting …' : filtered ? `${number(counts.found)} of ${plural(counts.total, 'text')}` : plural(counts.total, 'text')}</span>
        <LinkAct aria-expanded={open} onClick={() => setOpen(!open)}>
          filter
        </LinkAct>
      </Flex>
      {open && <FilterForm filter={filter} onChange={change} />}
      {filtered && (
        <Flex justify="space-between" gap="2" fontSize="small" pb="1.5">
          <span>{said.join(' · ')}</span>
          <LinkAct onClick={clear}>clear</LinkAct>
        </Flex>
      )}
    </Box>
  )
}
