import { Box, Flex, Grid } from '@chakra-ui/react'
import { Fragment, memo, useCallback, useLayoutEffect, useRef, useState } from 'react'

import type { DeskSentenceShown, TypeShown } from '../../api/schema'
import { LinkAct, QuietAct } from '../../parts/controls'
import { Heading, Section } from '../../parts/layout'
import { Cap, TypeCode } from '../../parts/signs'
import { number, score } from '../../parts/words'
import type { MarkedSpan } from './edits'
import { LANES } from './lanes'
import type { Evidence } from './useEvidence'
import { Why } from './Why'

const LABELS = new Map(LANES)

interface DeskRightProps {
  types: readonly TypeShown[]
  sentence: DeskSentenceShown | undefined
  words: string
  /** Evidence at the cursor. */
  evidence: readonly Evidence[]
  isDown: (span: MarkedSpan) => boolean
  onMark: (type: string) => void
  onTake: (span: Evidence) => void
  onTurnDown: (span: Evidence) => void
}

/** What explains the sentence: the keys of the types, and what each source says at the cursor. */
export function DeskRight({ types, sentence, words, evidence, isDown, onMark, onTake, onTurnDown }: DeskRightProps) {
  const mark = useLatest(onMark)
  const take = useLatest(onTake)
  const turnDown = useLatest(onTurnDown)
  return (
    // A click here leaves the focus on the sentence, so that the next key goes there.
    <Box onMouseDown={(event) => event.preventDefault()}>
      <Heading side={<Box fontSize="tiny" color="second">gold spans</Box>}>Mark selection as</Heading>
      <TypeKeys types={types} onMark={mark} />
      {types.length === 0 && <Box color="second">There is no entity type yet; a lead adds one under Types.</Box>}
      <Section>
        <Heading>Evidence at the cursor</Heading>
        <Box fontWeight="bold" mb="1">
          {words}
        </Box>
        <EvidenceHere types={types} sentence={sentence} evidence={evidence} isDown={isDown} onTake={take} onTurnDown={turnDown} />
      </Section>
    </Box>
  )
}

/** Calls the newest of the functions it was given, and is itself always the same one. */
function useLatest<T>(act: (value: T) => void): (value: T) => void {
  const latest = useRef(act)
  useLayoutEffect(() => {
    latest.current = act
  })
  return useCallback((value: T) => latest.current(value), [])
}

// Neither is drawn again by a key that changes nothing in it.

const EvidenceHere = memo(function EvidenceHere(props: Omit<DeskRightProps, 'words' | 'onMark'>) {
  const { types, sentence, evidence, isDown, onTake, onTurnDown } = props
  const [asked, setAsked] = useState(false)
  const hues = new Map(types.map((t) => [t.code, t.hue]))
  return (
    <>
      {evidence.length === 0 && <Box color="second">No source finds anything here.</Box>}
      {evidence.map((span) => (
        <Fragment key={`${span.lane}-${span.start}-${span.end}-${span.type}`}>
          <Flex gap="1" align="baseline" mb="1">
            <Box flex="1">
              {LABELS.get(span.lane)} <TypeCode code={span.type} hue={hues.get(span.type)} />
              {span.probability !== null && span.probability !== undefined && ` ${score(span.probability)} %`}
              {isDown(span) && ' · turned down'}
              <Box color="second" fontSize="small">
                {span.lane === 'tagger' ? (
                  <LinkAct aria-expanded={asked} onClick={() => setAsked(!asked)}>
                    why the tagger says so
                  </LinkAct>
                ) : (
                  span.why
                )}
              </Box>
            </Box>
            <QuietAct px="1" onClick={() => onTake(span)} aria-label={`take ${span.type} from ${span.lane}`}>
              take
            </QuietAct>
            <QuietAct
              px="1"
              onClick={() => onTurnDown(span)}
              aria-label={`${isDown(span) ? 'offer again' : 'turn down'} ${span.type} from ${span.lane}`}
            >
              {isDown(span) ? 'offer again' : 'turn down'}
            </QuietAct>
          </Flex>
          {asked && sentence && span.lane === 'tagger' && <Why sentence={sentence} span={span} />}
        </Fragment>
      ))}
    </>
  )
})

const TypeKeys = memo(function TypeKeys({ types, onMark }: { types: readonly TypeShown[]; onMark: (type: string) => void }) {
  return (
    <Flex direction="column">
      {types.map((type) => (
        <Grid
          key={type.id}
          as="button"
          templateColumns="auto var(--chakra-sizes-10) 1fr auto"
          gap="2"
          alignItems="center"
          textAlign="left"
          h="6"
          cursor="pointer"
          _hover={{ bg: 'chosen' }}
          onClick={() => onMark(type.code)}
        >
          <Cap>{type.key}</Cap>
          <TypeCode code={type.code} hue={type.hue} />
          <span>{type.name}</span>
          <Box color="second" fontVariantNumeric="tabular-nums">
            {number(type.spans)}
          </Box>
        </Grid>
      ))}
    </Flex>
  )
})
