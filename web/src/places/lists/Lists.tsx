import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { ListShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, BadAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Empty, Heading, Title } from '../../parts/layout'
import { RowList } from '../../parts/RowList'
import { TypeCode } from '../../parts/signs'
import { usePick } from '../../parts/usePick'
import { Sure } from '../../parts/Window'
import { number, plural, share } from '../../parts/words'
import { Counting } from '../../stave/Counting'
import { Finds, type FindOutcome } from '../../stave/Finds'
import { Entries } from './Entries'
import { ListForm } from './ListForm'
import { listFindsQuery, listsQuery } from './queries'

/** Lists of names: what they hold, and what they find. */
export function Lists() {
  const project = useProject()
  const lead = useIsLead()
  const { hues, types } = useScheme()
  const query = useQuery(listsQuery(project))
  const { chosen, pick } = usePick('lists', query.data, 'list')
  const [form, setForm] = useState<'new' | 'change' | 'remove' | null>(null)
  useKeys(
    lead
      ? [
          { keys: ['n'], caps: ['n'], label: 'new list', run: () => setForm('new') },
          { keys: ['e'], caps: ['e'], label: 'change the list', run: () => chosen && setForm('change') },
        ]
      : [],
  )
  const left = (
    <>
      <Box px="3" pt="3">
        <Heading side={<Box fontSize="tiny" color="second">finds · right</Box>}>Lists</Heading>
      </Box>
      <Counting />
      <RowList rows={query.data ?? []} keyOf={(x) => x.id} chosen={chosen?.id ?? null} onChoose={pick} height={44} label="lists">
        {(list) => (
          <Box px="2.5" py="1">
            <Flex justify="space-between" gap="2">
              <Box truncate fontWeight="bold" color={list.on ? 'ink' : 'second'}>
                {list.name}
              </Box>
              <Box color="second" fontVariantNumeric="tabular-nums" whiteSpace="nowrap">
                {number(list.finds)} · {share(list.right, list.judged)}
              </Box>
            </Flex>
            <Box fontSize="small" color="second">
              <TypeCode code={list.type} hue={hues.get(list.type)} /> · {plural(list.entries, 'name')}
              {list.on ? '' : ' · off'}
            </Box>
          </Box>
        )}
      </RowList>
      {lead && (
        <Box p="3" borderTopWidth="1px" borderColor="hairline">
          <Act onClick={() => setForm('new')} disabled={types.length === 0}>
            new list
          </Act>
        </Box>
      )}
    </>
  )
  return (
    <Columns left={left} right={chosen && <Entries key={chosen.id} list={chosen} lead={lead} />}>
      <Ask query={query}>
        {() =>
          chosen ? (
            <Sheet key={chosen.id} list={chosen} lead={lead} onChange={() => setForm('change')} onRemove={() => setForm('remove')} />
          ) : (
            <Empty act={lead && <Act onClick={() => setForm('new')}>new list</Act>}>
              A list holds names of one type, each with the other ways it is written. Its finds are evidence at the Desk and
              features of the tagger. There is none yet.
            </Empty>
          )
        }
      </Ask>
      {form === 'new' && <ListForm onClose={() => setForm(null)} onDone={pick} />}
      {form === 'change' && chosen && <ListForm list={chosen} onClose={() => setForm(null)} onDone={pick} />}
      {form === 'remove' && chosen && (
        <Sure
          title={`Remove the list “${chosen.name}”?`}
          act={`remove with ${plural(chosen.entries, 'name')}`}
          onClose={() => setForm(null)}
          onSure={async () => {
            await api.DELETE('/api/projects/{project}/lists/{list_id}', { params: { path: { project, list_id: chosen.id } } })
            pick(null)
          }}
        >
          The list goes with its {plural(chosen.entries, 'name')} and all their variants. This cannot be undone; a list that
          is switched off keeps its names and finds nothing.
        </Sure>
      )}
    </Columns>
  )
}

const LANE = ['lists', 'This list'] as const

function Sheet({ list, lead, onChange, onRemove }: { list: ListShown; lead: boolean; onChange: () => void; onRemove: () => void }) {
  const project = useProject()
  const { hues } = useScheme()
  const [outcome, setOutcome] = useState<FindOutcome>('')
  const finds = useQuery(listFindsQuery(project, list.id, outcome))
  return (
    <Box px="6" pt="4" pb="8">
      <Title
        side={
          lead && (
            <>
              <QuietAct onClick={onChange}>change</QuietAct>
              <BadAct onClick={onRemove}>remove</BadAct>
            </>
          )
        }
      >
        {list.name}{' '}
        <Box as="span" fontSize="ui" fontFamily="body">
          marks <TypeCode code={list.type} hue={hues.get(list.type)} />
          {list.on ? '' : ' · switched off, finds nothing'}
        </Box>
      </Title>
      <Box color="second" maxW="3xl">
        A name is found word by word, in any case; one that the list writes with a capital is not found in small letters.
        Right means: the very span stands in gold.
      </Box>
      <Finds counts={list} outcome={outcome} onOutcome={setOutcome} query={finds} lane={LANE} hues={hues} />
    </Box>
  )
}
