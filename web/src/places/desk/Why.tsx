import { Box, Grid } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'

import { messageOf } from '../../api/client'
import { CodePoints } from '../../api/offsets'
import { useProject } from '../../api/project'
import type { DeskSentenceShown, SpanShown } from '../../api/schema'
import { hueColour } from '../../parts/signs'
import { plural } from '../../parts/words'
import { featureWords } from './featureWords'
import { whyQuery } from './queries'

const signed = (value: number) => `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(2)}`

/** Which features speak for a tagger's span and which against it; they add up to its lead. */
export function Why({ sentence, span, hue }: { sentence: DeskSentenceShown; span: SpanShown; hue: number | undefined }) {
  const project = useProject()
  const query = useQuery(whyQuery(project, sentence.id, span))
  if (query.isError) {
    return (
      <Box color="bad" role="alert">
        {messageOf(query.error)}
      </Box>
    )
  }
  const why = query.data
  if (!why) return <Box color="second">Working it out…</Box>
  const points = new CodePoints(sentence.words, sentence.start)
  const largest = Math.max(...[...why.contributions.map((part) => part.value), why.rest_value].map(Math.abs), Number.MIN_VALUE)
  const others = why.runner_up.map((s) => `${s.type} “${points.slice(s.start, s.end)}”`).join(', ')
  return (
    <Box fontSize="small" mb="2" role="group" aria-label={`why ${span.type}`}>
      <Box color="second" mb="1">
        Scores {Math.abs(why.difference).toFixed(2)} {why.difference >= 0 ? 'more' : 'less'} than the best answer without it
        {others ? `: ${others}.` : ', which marks nothing here.'}
      </Box>
      {why.contributions.map((part, i) => (
        <Line key={i} value={part.value} largest={largest} hue={hue}>
          <Feature {...part} />
        </Line>
      ))}
      {why.rest > 0 && (
        <Line value={why.rest_value} largest={largest} hue={hue}>
          <Box as="span" color="second">
            {plural(why.rest, 'smaller one')}
          </Box>
        </Line>
      )}
    </Box>
  )
}

/** A feature in plain words, with the word that has it. */
function Feature({ feature, word, offset }: { feature: string; word: string; offset: number }) {
  const { what, where } = featureWords(feature, offset)
  const quoted = word && !what.includes(`“${word}”`) ? `“${word}”` : ''
  return (
    <span title={feature}>
      {what}
      <Box as="span" color="second">
        {[where, quoted].map((said) => said && ` ${said}`)}
      </Box>
    </span>
  )
}

const BAR = { position: 'absolute', top: 1, bottom: 1 } as const

interface LineProps {
  value: number
  /** The largest of all values, without its sign: its bar fills half the width. */
  largest: number
  hue: number | undefined
  children: ReactNode
}

/** One contribution: its figure, and a bar to the right of the middle if it speaks for the span, to the left if against. */
function Line({ value, largest, hue, children }: LineProps) {
  const width = `${(50 * Math.abs(value)) / largest}%`
  return (
    <Box borderTopWidth="1px" borderColor="hairline" py="0.5">
      <Grid templateColumns="var(--chakra-sizes-10) 1fr" gap="2">
        <Box fontVariantNumeric="tabular-nums" textAlign="right" color={value < 0 ? 'bad' : 'good'}>
          {signed(value)}
        </Box>
        <Box>{children}</Box>
      </Grid>
      <Box position="relative" h="1.5" aria-hidden="true">
        <Box position="absolute" insetY="0" left="50%" borderLeftWidth="1px" borderColor="third" />
        <div data-bar style={{ ...BAR, width, ...(value < 0 ? { right: '50%', background: 'var(--chakra-colors-bad)' } : { left: '50%', background: hueColour(hue) }) }} />
      </Box>
    </Box>
  )
}
