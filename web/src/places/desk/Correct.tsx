import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useProject } from '../../api/project'
import type { TypeShown } from '../../api/schema'
import { Act, ChoiceField, QuietAct } from '../../parts/controls'
import { Window } from '../../parts/Window'
import { Proposals } from './Proposals'
import { correctionQuery, type Portion, type Search } from './queries'
import { describe } from './search'

interface CorrectProps {
  search: Search
  portion: Portion
  types: readonly TypeShown[]
  hues: ReadonlyMap<string, number>
  onClose: () => void
}

const REMOVE = '-'

/** One wrong pattern set right in every sentence that the search finds: what it shall be, then sentence by sentence. */
export function Correct({ search, portion, types, hues, onClose }: CorrectProps) {
  const [code, setCode] = useState(REMOVE)
  const [sure, setSure] = useState(false)
  const options = [
    { value: REMOVE, label: 'none: remove them' },
    ...types.filter((t) => t.code !== search.type).map((t) => ({ value: t.code, label: `${t.code} ${t.name}` })),
  ]
  if (sure) return <Looked search={search} portion={portion} code={code === REMOVE ? '' : code} types={types} hues={hues} onClose={onClose} />
  return (
    <Window
      title="Correct at once"
      onClose={onClose}
      footer={
        <>
          <QuietAct onClick={onClose}>cancel</QuietAct>
          <Act onClick={() => setSure(true)}>show what would change</Act>
        </>
      }
    >
      <Box mb="3">Gold spans that the search describes: {describe(search, types)}.</Box>
      <ChoiceField label="change to" value={code} onChange={setCode} options={options} help="Nothing is changed before you have looked the sentences through." />
    </Window>
  )
}

function Looked({ search, portion, code, types, hues, onClose }: CorrectProps & { code: string }) {
  const project = useProject()
  const query = useQuery({ ...correctionQuery(project, search, portion, code), staleTime: 0, gcTime: 0 })
  const title = code ? `Change to ${code}: ${describe(search, types)}` : `Remove: ${describe(search, types)}`
  return (
    <Proposals title={title} kind="correct" query={query} hues={hues} nothing="No gold span matches the search." onClose={onClose} />
  )
}
