import { Box, Wrap } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body as answer } from '../../api/client'
import { useProject } from '../../api/project'
import type { AbbreviationsShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { LinkAct, linesOf, TextField } from '../../parts/controls'
import { tell } from '../../parts/notes'
import { FormWindow } from '../../parts/Window'
import { plural } from '../../parts/words'
import { abbreviationsQuery } from './queries'

/** The abbreviations of the project, and those that its texts suggest. */
export function AbbreviationsForm({ onClose }: { onClose: () => void }) {
  const project = useProject()
  const client = useQueryClient()
  const query = useQuery(abbreviationsQuery(project))
  // What was typed; nothing yet while it is as the project has it.
  const [typed, setTyped] = useState<string | null>(null)
  const words = typed ?? query.data?.own.map((word) => `${word}.`).join('\n') ?? ''
  const send = async () => {
    if (!query.data) return
    const made = await answer(
      api.PUT('/api/projects/{project}/texts/abbreviations', { params: { path: { project } }, body: { words: linesOf(words) } }),
    )
    client.setQueryData(abbreviationsQuery(project).queryKey, made)
    tell(made.split_anew ? `${plural(made.split_anew, 'text')} split again.` : 'Saved. No text is split differently.')
  }
  return (
    <FormWindow title="Abbreviations" send="save" fields={['words']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <Box color="second" mb="3">
            A full stop after one of these does not end a sentence. They apply to new texts; texts in which nobody has marked anything yet are
            split again.
          </Box>
          <Ask query={query}>
            {(found) => (
              <>
                <TextField
                  label="abbreviations of this project"
                  help="one on each line; those of the language are known"
                  value={words}
                  lines={6}
                  autoFocus
                  error={errorOf('words')}
                  onChange={setTyped}
                />
                <Suggested found={found} words={words} onTake={(word) => setTyped([...linesOf(words), `${word}.`].join('\n'))} />
              </>
            )}
          </Ask>
        </>
      )}
    </FormWindow>
  )
}

function Suggested({ found, words, onTake }: { found: AbbreviationsShown; words: string; onTake: (word: string) => void }) {
  const taken = new Set(linesOf(words).map((word) => word.replace(/\.$/, '').toLowerCase()))
  const open = found.suggested.filter((word) => !taken.has(word))
  return (
    <Box>
      <Box color="second">{open.length > 0 ? 'Found in the texts by how they stand; a click takes one:' : 'The texts suggest no others.'}</Box>
      <Wrap gap="3" mt="1">
        {open.map((word) => (
          <LinkAct key={word} onClick={() => onTake(word)}>
            {word}.
          </LinkAct>
        ))}
      </Wrap>
    </Box>
  )
}
