import { Box } from '@chakra-ui/react'
import { type ReactNode, useState } from 'react'

import { Heading } from '../parts/layout'
import { compared, differences, goldLane, type Lane, otherLane, type Range, type StaveSpan } from '../stave/span'
import { type Selection, Stave } from '../stave/Stave'
import { cut, SAMPLES } from './samples'

const HUES = new Map([['VES', 16], ['PRT', 9], ['ORG', 2], ['PER', 23], ['CGO', 21], ['TIM', 6]])

/** Ways in which the stave is used, each by itself: for those who work on it, for tests and for pictures. */
export function Gallery() {
  return (
    <Box as="main" h="full" overflow="auto" bg="paper" p="6">
      <Box as="h1" fontFamily="heading" fontSize="head" mb="4">
        Staves
      </Box>
      <Annotators />
      <Stages />
      <Found />
      <Records />
      <Makers />
      {SAMPLES.map(({ name, lang, words }) => (
        <Case key={name} name={name}>
          <Sample words={words} lang={lang} />
        </Case>
      ))}
    </Box>
  )
}

function Case({ name, children }: { name: string; children: ReactNode }) {
  return (
    <Box as="section" aria-label={name} mb="6" maxW="4xl">
      <Heading>{name}</Heading>
      {children}
    </Box>
  )
}

const WORDS = 'Amber Quay left Tessmar at 0410 with steel coil for Orr Potteries.'
const at = (name: string, type: string, more: Partial<StaveSpan> & { maker?: string } = {}) => {
  const start = WORDS.indexOf(name)
  return { start, end: start + name.length, type, ...more }
}
const VESSEL = at('Amber Quay', 'VES')
const PORT = at('Tessmar', 'PRT')

function Plain({ lanes, differing }: { lanes: readonly Lane[]; differing?: readonly Range[] }) {
  return <Stave words={WORDS} start={0} tokens={cut(WORDS)} lang="en" lanes={lanes} hues={HUES} {...(differing ? { differing } : {})} />
}

/** A lane per annotator; every one that differs from the first is marked. */
function Annotators() {
  const jo = otherLane('jo', 'Johanna van der Meer', [VESSEL, PORT], { look: 'bar' })
  const wim = otherLane('wim', 'Wim', [at('Amber', 'PER'), PORT], { look: 'bar' })
  return (
    <Case name="a lane per annotator">
      <Plain lanes={[jo, wim]} differing={differences(jo.spans, wim.spans)} />
    </Case>
  )
}

/** What a stage was given and what it left. */
function Stages() {
  const given = otherLane('before', 'before', [VESSEL, at('Amber', 'PER'), at('Orr Potteries', 'PER'), at('0410', 'TIM')])
  const left = otherLane('after', 'after', [VESSEL, at('Orr Potteries', 'ORG'), at('0410', 'TIM'), at('steel coil', 'CGO')])
  const [before, after] = compared(given, left)
  return (
    <Case name="a stage, before and after">
      <Plain lanes={[before, after]} differing={differences(given.spans, left.spans)} />
    </Case>
  )
}

function Found() {
  const expected = goldLane([VESSEL, PORT], { label: 'expected' })
  const found = otherLane('found', 'found', [VESSEL, at('Orr Potteries', 'ORG', { probability: 0.43 })])
  const missed = otherLane('missed', 'missed', [PORT], { look: 'ghost' })
  return (
    <Case name="expected, found and missed">
      <Plain lanes={[expected, found, missed]} differing={differences(expected.spans, found.spans)} />
    </Case>
  )
}

function Records() {
  return (
    <Case name="a lane per record">
      <Plain lanes={[otherLane('1', 'call 1', [VESSEL, PORT, at('0410', 'TIM')]), otherLane('2', 'delivery', [at('steel coil', 'CGO'), at('Orr Potteries', 'ORG')])]} />
    </Case>
  )
}

/** Equal spans of two makers, one of them overruled, and spans within spans. */
function Makers() {
  const [first, second] = otherLane('lists', 'Lists', [at('Amber Quay', 'VES', { maker: 'vessels' }), at('Amber Quay', 'VES', { maker: 'fleet' })]).spans
  const spans = [first, second && { ...second, change: 'beaten' as const }, { id: 'quay', ...at('Quay', 'PRT') }].filter((span) => span !== undefined)
  return (
    <Case name="two makers in one lane">
      <Plain lanes={[{ id: 'lists', label: 'Lists', look: 'dimension', spans }]} />
    </Case>
  )
}

/** A sentence to be worked on: words are selected, bars and their ends dragged. */
function Sample({ words, lang }: { words: string; lang: string }) {
  const tokens = cut(words)
  const [selection, setSelection] = useState<Selection>({ anchor: 0, head: 0 })
  const [bounds, setBounds] = useState<Range>(() => ({ start: tokens[1]?.start ?? 0, end: tokens[2]?.end ?? 0 }))
  return (
    <Stave
      words={words}
      start={0}
      tokens={tokens}
      lang={lang}
      lanes={[goldLane([{ ...bounds, type: 'VES' }], { editable: true })]}
      hues={HUES}
      selection={selection}
      onSelect={setSelection}
      onBound={(_, wanted) => setBounds(wanted)}
    />
  )
}
