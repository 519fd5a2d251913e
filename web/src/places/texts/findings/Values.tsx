import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useProject } from '../../../api/project'
import { Ask } from '../../../parts/Ask'
import { LinkAct } from '../../../parts/controls'
import { plural } from '../../../parts/words'
import { Bars, SaveAs } from './Bars'
import { type FindingsWish, valuesQuery } from './queries'
import { Sentences } from './Sentences'

const FIRST = 100
const MORE = 1000

/** The values of a type, the most frequent first. */
export function Values({ type, wish }: { type: string; wish: FindingsWish }) {
  const [limit, setLimit] = useState(FIRST)
  const [value, setValue] = useState<string | null>(null)
  const query = useQuery(valuesQuery(useProject(), { ...wish, of: type, limit }))
  return (
    <Ask query={query}>
      {({ values, total }) => {
        const bars = values.map((one) => ({ name: one.value, count: one.spans }))
        return (
          <>
            <Bars bars={bars} label={`spans by value of ${type}`} chosen={value} onChoose={setValue} />
            <Flex justify="space-between" align="center" color="second" mt="2" wrap="wrap">
              <Box>
                {total > values.length ? `The first ${values.length} of ${plural(total, 'value')}.` : plural(total, 'value')}{' '}
                {total > values.length && limit < MORE && <LinkAct onClick={() => setLimit(MORE)}>more</LinkAct>}
              </Box>
              <SaveAs name={`values-${type}`} title={`Spans by value of ${type}`} bars={bars} />
            </Flex>
            <Sentences wish={{ ...wish, of: type, ...(value === null ? {} : { named: value }) }} said={value ?? `All of ${type}`} />
          </>
        )
      }}
    </Ask>
  )
}
