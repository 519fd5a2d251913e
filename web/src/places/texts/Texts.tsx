import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'

import { api } from '../../api/client'
import { useIsLead, useMayAnnotate, useProject } from '../../api/project'
import type { TextShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, ChoiceField, QuietAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Empty, Heading, Section } from '../../parts/layout'
import { RowList } from '../../parts/RowList'
import { Facts } from '../../parts/signs'
import { usePick } from '../../parts/usePick'
import { Sure } from '../../parts/Window'
import { longDate, number, plural } from '../../parts/words'
import { AbbreviationsForm } from './AbbreviationsForm'
import { textQuery, textsQuery } from './queries'
import { TextSheet } from './TextSheet'
import { SPLITS, TextForm } from './TextForm'

/** Every text, its sentences and how far they are signed. */
export function Texts() {
  const project = useProject()
  const lead = useIsLead()
  const writes = useMayAnnotate()
  const [search, setSearch] = useState('')
  const [split, setSplit] = useState('')
  const [form, setForm] = useState<'new' | 'change' | 'remove' | 'abbreviations' | null>(null)
  const query = useInfiniteQuery(textsQuery(project, search, split))
  const rows = useMemo(() => query.data?.pages.flatMap((page) => page.texts), [query.data])
  const { chosen, pick, wanted } = usePick('texts', rows, 'text')
  // A text may stand on a page of the list that has not been fetched.
  const id = rows?.length === 0 ? undefined : (chosen?.id ?? wanted ?? undefined)
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = query
  const more = useCallback(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage()
  }, [hasNextPage, isFetchingNextPage, fetchNextPage])
  const text = useQuery({ ...textQuery(project, id ?? 0), enabled: id !== undefined })
  useKeys([
    ...(writes ? [{ keys: ['n'], caps: ['n'], label: 'new text', run: () => setForm('new') }] : []),
    ...(lead ? [{ keys: ['e'], caps: ['e'], label: 'change title, group, split', run: () => text.data && setForm('change') }] : []),
  ])
  const left = (
    <>
      <Box px="3" pt="3" borderBottomWidth="1px" borderColor="hairline">
        <TextField label="search titles and bodies" value={search} onChange={setSearch} />
        <ChoiceField label="show" value={split} onChange={setSplit} options={[{ value: '', label: 'all splits' }, ...SPLITS]} />
      </Box>
      <RowList rows={rows ?? []} keyOf={(t) => t.id} chosen={id ?? null} onChoose={pick} height={46} label="texts" onEnd={more}>
        {(head) => (
          <Box px="2.5" py="1">
            <Flex justify="space-between" gap="2">
              <Box fontWeight="bold" truncate>
                {head.title}
              </Box>
              <Box color="second" fontSize="small" whiteSpace="nowrap">
                {head.signed} of {head.sentences} · {head.split}
              </Box>
            </Flex>
            <Box color="second" fontSize="small" truncate>
              {head.opening}
            </Box>
          </Box>
        )}
      </RowList>
      <Box p="3" borderTopWidth="1px" borderColor="hairline">
        <Flex gap="3" align="center" justify="space-between">
          {writes && <Act onClick={() => setForm('new')}>paste a new text</Act>}
          {lead && <QuietAct onClick={() => setForm('abbreviations')}>abbreviations</QuietAct>}
        </Flex>
      </Box>
    </>
  )
  const filtered = search !== '' || split !== ''
  return (
    <Columns left={left} right={text.data && <About text={text.data} />}>
      {id !== undefined ? (
        <Ask query={text}>
          {(open) => (
            <TextSheet key={open.id} text={open} lead={lead} onChange={() => setForm('change')} onRemove={() => setForm('remove')} />
          )}
        </Ask>
      ) : (
        query.isSuccess && (
          <Empty act={writes && <Act onClick={() => setForm('new')}>paste a new text</Act>}>
            {filtered
              ? 'No text fits this search.'
              : 'Texts are what everything here is made from. Paste one; its sentences are then ready for the Desk.'}
          </Empty>
        )
      )}
      {form === 'abbreviations' && <AbbreviationsForm onClose={() => setForm(null)} />}
      {form === 'new' && <TextForm onClose={() => setForm(null)} onDone={pick} />}
      {form === 'change' && text.data && <TextForm text={text.data} onClose={() => setForm(null)} onDone={pick} />}
      {form === 'remove' && text.data && (
        <Sure
          title={`Remove “${text.data.title}”?`}
          act="remove"
          onClose={() => setForm(null)}
          onSure={async () => {
            await api.DELETE('/api/projects/{project}/texts/{text_id}', { params: { path: { project, text_id: text.data.id } } })
            pick(null)
          }}
        >
          The text goes with its {plural(text.data.sentences, 'sentence')} and whatever is marked in them but not signed.
          A text with signed sentences is not removed.
        </Sure>
      )}
    </Columns>
  )
}

function About({ text }: { text: TextShown }) {
  return (
    <>
      <Heading>About this text</Heading>
      <Facts
        facts={[
          ['group', text.group || 'none'],
          ['dated', text.dated ? longDate(text.dated) : 'no date'],
          ['split', text.split],
          ['signed', `${number(text.signed)} of ${plural(text.sentences, 'sentence')}`],
          ['spans', number(text.spans)],
          ['characters', number(Array.from(text.body).length)],
        ]}
      />
      <Section>
        <Box color="second">
          The body of a text never changes, so that every span keeps its place. A click on a sentence opens it at the Desk.
        </Box>
      </Section>
    </>
  )
}
