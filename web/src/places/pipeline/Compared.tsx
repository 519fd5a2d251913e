import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import type { VersionsComparedShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { ChoiceField, QuietAct } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { plural, score } from '../../parts/words'
import { StaveList } from '../../stave/StaveList'
import { f1Of } from './figures'
import { comparisonQuery, versionsQuery } from './queries'
import { titleOf } from './versions'

export interface Pair {
  before: number
  after: number
}

interface ComparedProps {
  pair: Pair
  onPair: (pair: Pair) => void
  onClose: () => void
}

/** Two versions: in what they differ, and the signed dev sentences that they answer differently. */
export function Compared({ pair, onPair, onClose }: ComparedProps) {
  const project = useProject()
  const versions = useQuery(versionsQuery(project)).data ?? []
  const query = useQuery(comparisonQuery(project, pair.before, pair.after))
  const options = versions.map((version) => ({ value: String(version.number), label: titleOf(version) }))
  return (
    <Box role="region" aria-label="two versions">
      <Heading side={<QuietAct onClick={onClose}>close</QuietAct>}>Two versions</Heading>
      <Flex gap="3" mb="3">
        <ChoiceField label="before" value={String(pair.before)} options={options} onChange={(number) => onPair({ ...pair, before: Number(number) })} />
        <ChoiceField label="after" value={String(pair.after)} options={options} onChange={(number) => onPair({ ...pair, after: Number(number) })} />
      </Flex>
      <Ask query={query}>{(found) => <Found found={found} pair={pair} />}</Ask>
    </Box>
  )
}

function Found({ found, pair }: { found: VersionsComparedShown; pair: Pair }) {
  const { hues } = useScheme()
  const { look, said } = found
  const lanes = [['gold', 'Gold'], ['before', `version ${pair.before}`], ['after', `version ${pair.after}`]] as const
  return (
    <>
      <Box>{said.length === 0 ? 'Their stages are the same.' : `From one to the other ${said.join('; ')}.`}</Box>
      <Box color="second" mb="3">
        {look.sentences === 0
          ? 'No sentence of a dev text is signed.'
          : `F1 ${score(f1Of(look.before))} and ${score(f1Of(look.after))} on ${plural(look.sentences, 'signed sentence')} of ${look.all ? '' : 'the first '}${plural(look.texts, 'dev text')}, with the lists, rules and taggers of now.`}
      </Box>
      <StaveList page={{ total: look.differing, staves: look.shown }} lanes={lanes} hues={hues} empty="They answer the same in every signed dev sentence." />
    </>
  )
}
