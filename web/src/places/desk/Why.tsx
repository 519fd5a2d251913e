import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { messageOf } from '../../api/client'
import { CodePoints } from '../../api/offsets'
import { useProject } from '../../api/project'
import type { DeskSentenceShown, SpanShown } from '../../api/schema'
import { plural } from '../../parts/words'
import { Contribution, largestOf } from '../../stave/Contributions'
import { featureWords } from './featureWords'
import { whyQuery } from './queries'

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
  const largest = largestOf([...why.contributions.map((part) => part.value), why.rest_value])
  const others = why.runner_up.map((s) => `${s.type} “${points.slice(s.start, s.end)}”`).join(', ')
  return (
    <Box fontSize="small" mb="2" role="group" aria-label={`why ${span.type}`}>
      <Box color="second" mb="1">
        Scores {Math.abs(why.difference).toFixed(2)} {why.difference >= 0 ? 'more' : 'less'} than the best answer without it
        {others ? `: ${others}.` : ', which marks nothing here.'}
      </Box>
      {why.contributions.map((part, i) => (
        <Contribution key={i} value={part.value} largest={largest} hue={hue}>
          <Feature {...part} />
        </Contribution>
      ))}
      {why.rest > 0 && (
        <Contribution value={why.rest_value} largest={largest} hue={hue}>
          <Box as="span" color="second">
            {plural(why.rest, 'smaller one')}
          </Box>
        </Contribution>
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
