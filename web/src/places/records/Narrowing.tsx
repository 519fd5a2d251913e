import { Box, chakra, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import type { TemplateShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { CheckField } from '../../parts/controls'
import { Heading, Section } from '../../parts/layout'
import { hueColour } from '../../parts/signs'
import { number } from '../../parts/words'
import { countsQuery, type Wanted } from './queries'

interface NarrowingProps {
  template: TemplateShown
  wanted: Wanted
  onWant: (wanted: Wanted) => void
}

/** What there is to look at, and the values that fields have most often: each narrows the table to its records. */
export function Narrowing({ template, wanted, onWant }: NarrowingProps) {
  const counts = useQuery(countsQuery(useProject(), template.id)).data
  const { hues } = useScheme()
  if (!counts || template.records === 0) return null
  const { look, field, value, ...order } = wanted
  return (
    <Box px="3" pb="3">
      <Section first>
        <Heading>To look at</Heading>
        {counts.looks.length === 0 && <Box color="second">Nothing stands out.</Box>}
        {counts.looks.map((one) => (
          <Row key={one.look} chosen={look === one.look} onChoose={() => onWant(look === one.look ? order : { ...order, look: one.look })}>
            <Box as="span" color="bad" fontWeight="bold" fontVariantNumeric="tabular-nums">
              {number(one.records)}
            </Box>{' '}
            {one.words}
          </Row>
        ))}
        <Box mt="1">
          <CheckField label="not signed only" checked={wanted.unsigned ?? false} onChange={(unsigned) => onWant({ ...wanted, unsigned })} />
        </Box>
      </Section>
      {counts.fields
        .filter((one) => one.values.length > 1)
        .map((one) => {
          const most = one.values[0]?.records ?? 1
          const hue = hueColour(hues.get(template.fields.find((f) => f.name === one.field)?.types[0] ?? ''))
          return (
            <Section key={one.field}>
              <Heading>{one.field}</Heading>
              {one.values.map((own) => {
                const chosen = field === one.field && value === own.value
                return (
                  <Row key={own.value} chosen={chosen} onChoose={() => onWant(chosen ? order : { ...order, field: one.field, value: own.value })}>
                    <Flex position="relative" justify="space-between" gap="2">
                      <Box aria-hidden position="absolute" insetY="0" left="0" w={`${(100 * own.records) / most}%`} bg={hue} opacity="0.18" />
                      <Box position="relative" truncate>
                        {own.value}
                      </Box>
                      <Box position="relative" fontVariantNumeric="tabular-nums">
                        {number(own.records)}
                      </Box>
                    </Flex>
                  </Row>
                )
              })}
            </Section>
          )
        })}
    </Box>
  )
}

function Row({ chosen, onChoose, children }: { chosen: boolean; onChoose: () => void; children: React.ReactNode }) {
  return (
    <chakra.button type="button" display="block" w="full" textAlign="left" px="1" py="0.5" aria-pressed={chosen} bg={chosen ? 'chosen' : undefined} _hover={{ bg: 'chosen' }} onClick={onChoose}>
      {children}
    </chakra.button>
  )
}
