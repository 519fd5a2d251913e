import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useProject } from '../../api/project'
import type { SlotShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { LinkAct } from '../../parts/controls'
import { Section } from '../../parts/layout'
import { number, plural } from '../../parts/words'
import { slotsQuery } from './queries'

/** Which part of a rule took which words in right finds and in wrong ones. */
export function RuleSlots({ rule }: { rule: number }) {
  const project = useProject()
  const [open, setOpen] = useState(false)
  const slots = useQuery({ ...slotsQuery(project, rule), enabled: open })
  return (
    <Section>
      <LinkAct aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? 'hide what each part took' : 'what each part took, and which let wrong ones through'}
      </LinkAct>
      {open && (
        <Box mt="3">
          <Ask query={slots}>
            {({ finds, right, alone, shared, slots: parts }) =>
              parts.length === 0 ? (
                <Box color="second">It finds nothing in signed sentences.</Box>
              ) : (
                <>
                  <Box color="second" fontSize="small" mb="2">
                    In {plural(finds, 'find')} in signed sentences. Words that wrong finds have stand first.
                    {right > 0 && ` Of ${number(right)} right ones ${number(alone)} are found by no other rule${shared.length ? `; ${shared.map((one) => `${one.rule} finds ${number(one.finds)} of them too`).join(', ')}` : ''}.`}
                  </Box>
                  {parts.map((slot, k) => (
                    <Part key={k} slot={slot} lines={new Set(parts.map(({ line }) => line)).size} />
                  ))}
                </>
              )
            }
          </Ask>
        </Box>
      )}
    </Section>
  )
}

function Part({ slot, lines }: { slot: SlotShown; lines: number }) {
  const { said, marked, taken, distinct, line } = slot
  return (
    <Flex gap="4" py="1.5" borderTopWidth="1px" borderColor="hairline" align="flex-start">
      <Box w="56" flexShrink="0">
        {said}
        <Box color="second" fontSize="small">
          {marked ? 'marked' : 'around it'}
          {lines > 1 && ` · way ${number(line + 1)}`}
        </Box>
      </Box>
      <Flex wrap="wrap" columnGap="5" rowGap="1">
        {taken.map(({ words, right, wrong }) => (
          <Box key={words} fontVariantNumeric="tabular-nums">
            <Box as="span" fontFamily="text">
              {words || 'nothing'}
            </Box>{' '}
            <Box as="span" fontSize="small" color={wrong > 0 ? 'bad' : 'second'}>
              {wrong > 0 ? `${number(wrong)} wrong` : ''}
              {wrong > 0 && right > 0 ? ', ' : ''}
              {right > 0 ? `${number(right)} right` : ''}
            </Box>
          </Box>
        ))}
        {distinct > taken.length && <Box color="second">and {number(distinct - taken.length)} more</Box>}
      </Flex>
    </Flex>
  )
}
