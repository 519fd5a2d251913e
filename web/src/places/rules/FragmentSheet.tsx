import { Box, Flex } from '@chakra-ui/react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body, messageOf, ProblemError } from '../../api/client'
import { useProject } from '../../api/project'
import type { FragmentShown, FragmentWish } from '../../api/schema'
import { BothVersions, staleOf, versionOf } from '../../parts/BothVersions'
import { Act, BadAct, QuietAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Title } from '../../parts/layout'
import { Unsaved } from '../../parts/Unsaved'
import { Sure } from '../../parts/Window'
import { plural } from '../../parts/words'
import { PatternField } from './PatternField'
import { fragmentsQuery, languageQuery, rulesQuery } from './queries'
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
  const [wish, setWish] = useState(() => wishOf(fragment))
  const [editing, setEditing] = useState(fragment === undefined)
  const [leaving, setLeaving] = useState(false)
  const [sure, setSure] = useState(false)
  const changed = editing && JSON.stringify(wish) !== JSON.stringify(wishOf(fragment))
  const anew = () => Promise.all([fragmentsQuery(project), rulesQuery(project)].map(({ queryKey }) => client.invalidateQueries({ queryKey })))
  const path = { project }
  const saving = useMutation({
    mutationFn: (over?: number) =>
      fragment
        ? body(
            api.PUT('/api/projects/{project}/rules/fragments/{fragment_id}', {
              params: { path: { ...path, fragment_id: fragment.id } },
              body: { ...wish, version: over ?? fragment.version },
            }),
          )
        : body(api.POST('/api/projects/{project}/rules/fragments', { params: { path }, body: wish })),
    onSuccess: async (made) => {
      await anew()
      setEditing(false)
      onDone(made)
    },
  })
  const remove = async () => {
    if (fragment) await api.DELETE('/api/projects/{project}/rules/fragments/{fragment_id}', { params: { path: { ...path, fragment_id: fragment.id } } })
    await anew()
    onDone(null)
  }
  const cancel = () => {
    setWish(wishOf(fragment))
    saving.reset()
    setLeaving(false)
    setEditing(false)
    if (!fragment) onDone(null)
  }
  const save = (over?: number) => {
    if (!saving.isPending) saving.mutate(over)
  }
  useKeys(
    sure
      ? []
      : lead && editing
        ? [
            { keys: ['ctrl+enter'], caps: ['ctrl', 'enter'], label: 'save the fragment', run: () => save(), inFields: true },
            { keys: ['escape'], caps: ['esc'], label: 'cancel', run: () => (changed ? setLeaving(true) : cancel()), inFields: true },
          ]
        : [
            { keys: ['escape'], caps: ['esc'], label: 'back to the rules', run: () => onDone(null) },
            ...(lead ? [{ keys: ['e'], caps: ['e'], label: 'edit the fragment', run: () => setEditing(true) }] : []),
          ],
    1,
  )
  const problem = saving.error
  const field = problem instanceof ProblemError ? problem.field : undefined
  const stale = staleOf(problem)
  const other = problem !== null && !stale && !['pattern', 'name'].includes(field ?? '') ? messageOf(problem) : undefined
  const set = (part: Partial<FragmentWish>) => {
    saving.reset()
    setWish({ ...wish, ...part })
  }
  return (
    <Box>
      <Title
        side={
          lead &&
          (editing ? (
            <>
              <QuietAct onClick={cancel}>cancel</QuietAct>
              <Act loading={saving.isPending} onClick={() => save()}>
                save
              </Act>
            </>
          ) : (
            <>
              <QuietAct onClick={() => setEditing(true)}>edit</QuietAct>
              <BadAct onClick={() => setSure(true)}>delete</BadAct>
            </>
          ))
        }
      >
        {fragment ? fragment.name : 'New fragment'}{' '}
        {fragment && (
          <Box as="span" fontSize="ui" fontFamily="body" color="second">
            a fragment · {fragment.used_by.length ? `used by ${fragment.used_by.join(', ')}` : 'not used yet'}
          </Box>
        )}
      </Title>
      {leaving && <Unsaved onDiscard={cancel} onGoOn={() => setLeaving(false)} />}
      {stale && <BothVersions stale={stale} onMine={() => save(versionOf(stale))} onTheirs={cancel} />}
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
          The fragment goes with its pattern. Whatever uses it has to be changed first.
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
