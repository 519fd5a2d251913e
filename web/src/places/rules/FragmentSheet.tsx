import { Box, Flex } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body, messageOf, ProblemError } from '../../api/client'
import { useProject } from '../../api/project'
import type { FragmentShown, FragmentWish } from '../../api/schema'
import { staleOf } from '../../parts/BothVersions'
import { BadAct, QuietAct, TextField } from '../../parts/controls'
import { Sure } from '../../parts/Window'
import { plural } from '../../parts/words'
import { draftKey, fragmentDrafts } from './drafts'
import { PatternField } from './PatternField'
import { fragmentsQuery, languageQuery, latestRuleActQuery, rulesQuery } from './queries'
import { SheetHead } from './SheetHead'
import { useSheet } from './useSheet'
import { Written } from './Written'

interface FragmentSheetProps {
  fragment?: FragmentShown
  lead: boolean
  onDone: (fragment: FragmentShown | null) => void
}

const wishOf = (fragment: FragmentShown | undefined): FragmentWish => ({
  name: fragment?.name ?? '',
  pattern: fragment?.pattern ?? '',
  about: fragment?.about ?? '',
})

/** A part of patterns that rules use by its name. */
export function FragmentSheet({ fragment, lead, onDone }: FragmentSheetProps) {
  const project = useProject()
  const client = useQueryClient()
  const language = useQuery({ ...languageQuery(project), enabled: fragment === undefined })
  const ready = language.data?.ready_made ?? []
  const [sure, setSure] = useState(false)
  const key = draftKey(project, fragment?.id)
  const anew = () => Promise.all([fragmentsQuery(project), rulesQuery(project), latestRuleActQuery(project)].map(({ queryKey }) => client.invalidateQueries({ queryKey })))
  const path = { project }
  const back = { keys: ['escape'], caps: ['esc'], label: 'back to the rules', run: () => onDone(null) }
  const sheet = useSheet({
    kept: { get: () => fragmentDrafts.get(key), set: (draft) => fragmentDrafts.set(key, draft), drop: () => fragmentDrafts.delete(key) },
    start: wishOf(fragment),
    isNew: fragment === undefined,
    lead,
    one: 'fragment',
    version: fragment?.version,
    send: (wish, seen) =>
      fragment
        ? body(
            api.PUT('/api/projects/{project}/rules/fragments/{fragment_id}', {
              params: { path: { ...path, fragment_id: fragment.id } },
              body: { ...wish, version: seen },
            }),
          )
        : body(api.POST('/api/projects/{project}/rules/fragments', { params: { path }, body: wish })),
    onDone: async (made) => {
      await anew()
      onDone(made)
    },
    onCancel: () => {
      if (!fragment) onDone(null)
    },
    reading: [back],
    covered: sure,
    level: 1,
  })
  const { draft: wish, type, editing, error: problem } = sheet
  const remove = async () => {
    if (fragment) await api.DELETE('/api/projects/{project}/rules/fragments/{fragment_id}', { params: { path: { ...path, fragment_id: fragment.id } } })
    await anew()
    onDone(null)
  }
  const field = problem instanceof ProblemError ? problem.field : undefined
  const other = problem !== null && !staleOf(problem) && !['pattern', 'name'].includes(field ?? '') ? messageOf(problem) : undefined
  const set = (part: Partial<FragmentWish>) => type({ ...wish, ...part })
  return (
    <Box>
      <SheetHead sheet={sheet} lead={lead} acts={<BadAct onClick={() => setSure(true)}>delete</BadAct>}>
        {fragment ? fragment.name : 'New fragment'}{' '}
        {fragment && (
          <Box as="span" fontSize="ui" fontFamily="body" color="second">
            a fragment · {fragment.used_by.length ? `used by ${fragment.used_by.join(', ')}` : 'not used yet'}
          </Box>
        )}
      </SheetHead>
      {editing ? (
        <>
          {!fragment && ready.length > 0 && wish.pattern === '' && (
            <Flex gap="2" mb="3" align="center" color="second">
              Ready-made:
              {ready.map((one) => (
                <QuietAct key={one.name} title={one.about} onClick={() => set(one)}>
                  {one.name}
                </QuietAct>
              ))}
            </Flex>
          )}
          <TextField
            label="name"
            value={wish.name}
            autoFocus={!fragment}
            help="A rule uses it as use(name)."
            error={field === 'name' ? messageOf(problem) : undefined}
            onChange={(name) => set({ name })}
          />
          <TextField label="what it stands for, in words" value={wish.about} onChange={(about) => set({ about })} />
          <PatternField label="pattern" value={wish.pattern} problem={problem} help="Without square brackets and conditions; those are the rules’." onChange={(pattern) => set({ pattern })} />
        </>
      ) : (
        <>
          {wish.about && (
            <Box fontFamily="text" fontSize="context" maxW="3xl" mb="3">
              {wish.about}
            </Box>
          )}
          <Written pattern={wish.pattern} />
        </>
      )}
      {other && (
        <Box color="bad" role="alert">
          {other}
        </Box>
      )}
      {sure && fragment && (
        <Sure title={`Delete “${fragment.name}”`} act="delete" onClose={() => setSure(false)} onSure={remove}>
          The fragment goes with its pattern. Whatever uses it has to be changed first. Ctrl Z brings it back.
        </Sure>
      )}
      {editing && fragment && fragment.used_by.length > 0 && (
        <Box color="second" fontSize="small">
          {plural(fragment.used_by.length, 'rule or fragment uses', 'rules or fragments use')} it and will find what it says then.
        </Box>
      )}
    </Box>
  )
}
