import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useProject } from '../../api/project'
import type { TrainingShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { LinkAct } from '../../parts/controls'
import { Heading, Section } from '../../parts/layout'
import { TypeCode } from '../../parts/signs'
import { plural } from '../../parts/words'
import { wordClassesQuery } from './queries'

const FIRST = 8

/** Classes of words that a training found in running text, as lists one can read. */
export function WordClasses({ training }: { training: TrainingShown }) {
  const project = useProject()
  const { hues } = useScheme()
  const [all, setAll] = useState(false)
  const { data: classes } = useQuery(wordClassesQuery(project, training))
  if (!classes || classes.length === 0) return null
  const shown = all ? classes : classes.slice(0, FIRST)
  return (
    <Section>
      <Heading>Word classes learnt from texts of train and no split</Heading>
      <Flex as="ol" direction="column" gap="1.5" listStyleType="none">
        {shown.map((one) => (
          <Flex as="li" key={one.number} gap="2" align="baseline">
            <Box color="third" fontVariantNumeric="tabular-nums" minW="5" title={plural(one.size, 'word')}>
              {String(one.number).padStart(2, '0')}
            </Box>
            <Box fontFamily="text" flex="1">
              {one.words.join(' · ')}
            </Box>
            {one.type && <TypeCode code={one.type} hue={hues.get(one.type)} />}
          </Flex>
        ))}
      </Flex>
      {classes.length > FIRST && (
        <Box mt="2">
          <LinkAct onClick={() => setAll(!all)}>{all ? 'fewer' : `all ${classes.length}`}</LinkAct>
        </Box>
      )}
    </Section>
  )
}
