import { Box, Wrap } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body as answer } from '../../api/client'
import { useProject } from '../../api/project'
import type { AbbreviationsShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { LinkAct, linesOf, TextField } from '../../parts/controls'
import { useNotes } from '../../parts/notes'
import { FormWindow, Window } from '../../parts/Window'
import { plural } from '../../parts/words'
import { abbreviationsQuery } from './queries'

/** The abbreviations of the project, and those that its texts suggest. */
export function AbbreviationsForm({ onClose }: { onClose: () => void }) {
  const query = useQuery(abbreviationsQuery(useProject()))
  if (query.data) return <Words found={query.data} onClose={onClose} />
  return (
    <Window title="Abbreviations" onClose={onClose}>
      <Ask query={query}>{() => null}</Ask>
    </Window>
  )
}

function Words({ found, onClose }: { found: AbbreviationsShown; onClose: () => void }) {
  const project = useProject()
  const client = useQueryClient()
  const [words, setWords] = useState(found.own.map((word) => `${word}.`).join('\n'))
  const taken = new Set(linesOf(words).map((word) => word.replace(/\.$/, '').toLowerCase()))
  const suggested = found.suggested.filter((word) => !taken.has(word))
  const send = async () => {
    const made = await answer(
      api.PUT('/api/projects/{project}/texts/abbreviations', { params: { path: { project } }, body: { words: linesOf(words) } }),
    )
    client.setQueryData(abbreviationsQuery(project).queryKey, made)
    useNotes
      .getState()
      .add(made.split_anew ? `${plural(made.split_anew, 'text')} were split anew.` : 'Kept. No text was split otherwise by them.')
  }
  return (
    <FormWindow title="Abbreviations" send="keep" fields={['words']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <Box color="second">
            A stop behind one of these ends no sentence. They hold for new texts; texts in which nobody has marked anything yet are
            split anew.
          </Box>
          <TextField
            label="abbreviations of this project"
            help="one on each line; those of the language are known"
            value={words}
            lines={8}
            autoFocus
            error={errorOf('words')}
            onChange={setWords}
          />
          <Box>
            <Box color="second">{suggested.length > 0 ? 'Found in the texts by how they stand; a click takes one:' : 'The texts suggest no others.'}</Box>
            <Wrap gap="3" mt="1">
              {suggested.map((word) => (
                <LinkAct key={word} onClick={() => setWords([...linesOf(words), `${word}.`].join('\n'))}>
                  {word}.
                </LinkAct>
              ))}
            </Wrap>
          </Box>
        </>
      )}
    </FormWindow>
  )
}
