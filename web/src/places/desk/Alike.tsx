import { useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import type { MarkedSpan } from './edits'
import { alikeQuery } from './queries'
import { Proposals } from './Proposals'

interface AlikeProps {
  sentence: number
  span: MarkedSpan
  words: string
  hues: ReadonlyMap<string, number>
  onClose: () => void
}

/** The same words marked alike in the unsigned rest, after looking them through. */
export function Alike({ sentence, span: { start, end, type }, words, hues, onClose }: AlikeProps) {
  const project = useProject()
  const query = useQuery({ ...alikeQuery(project, sentence, { start, end, type }), staleTime: 0, gcTime: 0 })
  const title = `Mark “${words}” as ${type} in unsigned sentences`
  return (
    <Proposals title={title} kind="mark alike" query={query} hues={hues} nothing="No other unsigned sentence has these words unmarked. Test texts are left out." onClose={onClose} />
  )
}
