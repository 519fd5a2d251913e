import { Box, Flex } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { api, body } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import type { KinShown, ListShown, MissingShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { tell } from '../../parts/notes'
import { RowList } from '../../parts/RowList'
import { useAct } from '../../parts/useAct'
import { plural } from '../../parts/words'
import { missingQuery } from './queries'
import { wishOf } from './useListActs'

const FROM_GOLD = 'gold'

const KINDS: Record<string, string> = {
  signs: 'only signs differ',
  slip: 'one letter differs',
  initials: 'in initials',
  'short words': 'shortened words',
  'fewer words': 'some of its words',
  'first letters': 'its first letters',
}

/** Names of gold that no list of this type has: taken as entries, or as variants of what they may be. */
export function Missing({ list, lead }: { list: ListShown; lead: boolean }) {
  const project = useProject()
  const client = useQueryClient()
  const query = useQuery(missingQuery(project, list.id))
  const [at, setAt] = useState(0)
  const names = query.data?.names ?? []
  const chosen = names[Math.min(at, names.length - 1)]
  const path = { project, list_id: list.id }
  const changed = () => invalidate(client, project, 'lists')
  const take = useAct(
    ({ words }: MissingShown) => body(api.POST('/api/projects/{project}/lists/{list_id}/entries', { params: { path }, body: { preferred: words, variants: [], note: '', identifier: '', on: true, source: FROM_GOLD } })),
    { changes: 'lists', onDone: (made) => tell(`“${made.preferred}” is in the list now.`) },
  )
  const takeAs = useAct(
    async ({ name, kin }: { name: MissingShown; kin: KinShown }) => {
      const entry = await body(api.GET('/api/projects/{project}/lists/{list_id}/entries/{entry_id}', { params: { path: { ...path, entry_id: kin.entry_id } } }))
      return body(
        api.PUT('/api/projects/{project}/lists/{list_id}/entries/{entry_id}', {
          params: { path: { ...path, entry_id: kin.entry_id } },
          body: { ...wishOf(entry, { variants: [...entry.variants, name.words] }), version: entry.version },
        }),
      )
    },
    { onDone: (made, { name }) => { changed(); tell(`“${name.words}” is a variant of “${made.preferred}” now.`) } },
  )
  const kin = chosen?.kin[0]
  useKeys(
    lead && chosen
      ? [
          { keys: ['t'], caps: ['t'], label: 'take as a name', run: () => take.run(chosen) },
          ...(kin ? [{ keys: ['r'], caps: ['r'], label: `take as a variant`, run: () => takeAs.run({ name: chosen, kin }) }] : []),
          { keys: ['arrowdown'], caps: ['↓'], label: 'next name', run: () => setAt(Math.min(names.length - 1, at + 1)), quiet: true, repeats: true },
          { keys: ['arrowup'], caps: ['↑'], label: 'name before', run: () => setAt(Math.max(0, at - 1)), quiet: true, repeats: true },
        ]
      : [],
  )
  return (
    <Ask query={query}>
      {({ total }) =>
        total === 0 ? (
          <Box px="4" py="3" color="second">
            Every name of gold of this type is in a list.
          </Box>
        ) : (
          <>
            <Box px="4" py="2" color="second">
              {plural(total, 'name')} of gold that no list of {list.type} has{total > names.length ? `; the ${names.length} most frequent ones are shown` : ''}. Test texts are left out.
            </Box>
            <RowList rows={names.map((name, id) => ({ ...name, id }))} keyOf={({ id }) => id} chosen={Math.min(at, names.length - 1)} onChoose={({ id }) => setAt(id)} height={46} label="missing names">
              {(name) => <MissingRow name={name} lead={lead} onTake={() => take.run(name)} onTakeAs={(one) => takeAs.run({ name, kin: one })} />}
            </RowList>
          </>
        )
      }
    </Ask>
  )
}

function MissingRow({ name, lead, onTake, onTakeAs }: { name: MissingShown; lead: boolean; onTake: () => void; onTakeAs: (kin: KinShown) => void }) {
  const project = useProject()
  return (
    <Flex px="3" py="1" gap="3" align="baseline" wrap="wrap">
      <Box minW="40" fontWeight="bold">
        {name.words}
      </Box>
      <Box asChild color="action">
        <Link to={`/p/${project}/desk/${name.sentence_id}`}>{plural(name.spans, 'span')}</Link>
      </Box>
      {lead && <QuietAct onClick={onTake}>take as a name</QuietAct>}
      {name.kin.map((kin) => (
        <Flex key={kin.entry_id} gap="1" align="baseline">
          {lead ? <QuietAct onClick={() => onTakeAs(kin)}>variant of “{kin.preferred}”</QuietAct> : <Box>like “{kin.preferred}”</Box>}
          <Box color="second" fontSize="small">
            {KINDS[kin.kind] ?? kin.kind}
          </Box>
        </Flex>
      ))}
    </Flex>
  )
}
