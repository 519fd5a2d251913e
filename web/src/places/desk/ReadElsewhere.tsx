import { useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import type { DeskSentenceShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Window } from '../../parts/Window'
import { StaveList } from '../../stave/StaveList'
import type { Range } from './edits'
import { elsewhereStavesQuery } from './queries'

interface ReadElsewhereProps {
  sentence: DeskSentenceShown
  range: Range
  words: string
  hues: ReadonlyMap<string, number>
  onClose: () => void
}

/** The signed sentences that have the same words. */
export function ReadElsewhere({ sentence, range, words, hues, onClose }: ReadElsewhereProps) {
  const project = useProject()
  const query = useQuery(elsewhereStavesQuery(project, sentence.id, range))
  return (
    <Window title={`“${words}” in signed sentences`} wide onClose={onClose}>
      <Ask query={query}>
        {(page) => <StaveList page={page} lanes={[['gold', 'Gold']]} hues={hues} empty="No signed sentence has these words." />}
      </Ask>
    </Window>
  )
}
