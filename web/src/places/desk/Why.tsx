import { Box, Grid } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { messageOf } from '../../api/client'
import { CodePoints } from '../../api/offsets'
import { useProject } from '../../api/project'
import type { DeskSentenceShown, SpanShown } from '../../api/schema'
import { plural } from '../../parts/words'
import { whyQuery } from './queries'

const signed = (value: number) => `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(2)}`
const PLACES = ['two before', 'the word before', '', 'the word after', 'two after']

/** Which features speak for a tagger's span and which against it; they add up to its lead. */
export function Why({ sentence, span }: { sentence: DeskSentenceShown; span: SpanShown }) {
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
  if (!why) return <Box color="second">being worked out…</Box>
  const points = new CodePoints(sentence.words, sentence.start)
  const others = why.runner_up.map((s) => `${s.type} “${points.slice(s.start, s.end)}”`).join(', ')
  return (
    <Box fontSize="small" mb="2" role="group" aria-label={`why ${span.type}`}>
      <Box color="second" mb="1">
        {why.difference >= 0 ? 'Ahead' : 'Behind'} by {Math.abs(why.difference).toFixed(2)} of the best without it
        {others ? `: ${others}.` : ', which marks nothing in its place.'}
      </Box>
      {why.contributions.map((part, i) => (
        <Grid key={i} templateColumns="var(--chakra-sizes-10) 1fr" gap="2" borderTopWidth="1px" borderColor="hairline" py="0.5">
          <Box fontVariantNumeric="tabular-nums" textAlign="right" color={part.value < 0 ? 'bad' : 'good'}>
            {signed(part.value)}
          </Box>
          <Box>
            {part.feature}
            {part.word && (
              <Box as="span" color="second">
                {' '}
                {PLACES[part.offset + 2]} {part.offset !== 0 && `“${part.word}”`}
              </Box>
            )}
          </Box>
        </Grid>
      ))}
      {why.rest > 0 && (
        <Grid templateColumns="var(--chakra-sizes-10) 1fr" gap="2" borderTopWidth="1px" borderColor="hairline" py="0.5" color="second">
          <Box fontVariantNumeric="tabular-nums" textAlign="right">
            {signed(why.rest_value)}
          </Box>
          <Box>{plural(why.rest, 'smaller one')}</Box>
        </Grid>
      )}
    </Box>
  )
}
