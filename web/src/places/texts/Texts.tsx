import { Box, Flex } from '@chakra-ui/react'
import { type InfiniteData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { api } from '../../api/client'
import { useIsLead, useMayAnnotate, useProject } from '../../api/project'
import type { TextHead, TextPage, TextShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { ChoiceField, QuietAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Heading, Section } from '../../parts/layout'
import { AddAct, ResourceActs, ResourceList, ResourceSheet, ResourceWindows } from '../../parts/ResourcePlace'
import { Facts } from '../../parts/signs'
import { usePages } from '../../parts/usePages'
import { type Offer, useResource } from '../../parts/useResource'
import { longDate, number, plural } from '../../parts/words'
import { AbbreviationsForm } from './AbbreviationsForm'
import { ExportWindow } from './ExportWindow'
import { textQuery, textsQuery } from './queries'
import { TextSheet } from './TextSheet'
import { SPLITS, TextForm } from './TextForm'

const rowsOf = (page: TextPage) => page.texts

type Pages = InfiniteData<TextPage>

/** Changed rows stay on their pages; a new one stands at the end of the last. */
function within(data: Pages, change: (rows: readonly TextHead[]) => TextHead[]): Pages {
  const rows = change(data.pages.flatMap(rowsOf))
  const left = new Map(rows.map((row) => [row.id, row]))
  const pages = data.pages.map((page) => ({ ...page, texts: page.texts.flatMap((old) => left.get(old.id) ?? []) }))
  return { ...data, pages }
}

/** Every text, its sentences and how far they are signed. */
export function Texts() {
  const project = useProject()
  const lead = useIsLead()
  const writes = useMayAnnotate()
  const [search, setSearch] = useState('')
  const [split, setSplit] = useState('')
  const [abbreviations, setAbbreviations] = useState(false)
  const [exporting, setExporting] = useState(false)
  const query = useInfiniteQuery(textsQuery(project, search, split))
  const { rows, rest } = usePages(query, rowsOf)
  const offers: Offer[] = [...(writes ? (['add'] as const) : []), ...(lead ? (['edit', 'delete'] as const) : [])]
  const { queryKey } = textsQuery(project, search, split)
  const texts = useResource<TextHead, Pages>({ place: 'texts', one: 'text', query, queryKey, rows, within, offers, addLabel: 'paste a new text', editLabel: 'edit title, group, split' })
  // A text may stand on a page of the list that has not been fetched.
  const id = rows?.length === 0 ? undefined : (texts.chosen?.id ?? texts.wanted ?? undefined)
  const text = useQuery({ ...textQuery(project, id ?? 0), enabled: id !== undefined })
  const client = useQueryClient()
  const onSaved = (made: TextShown) => {
    client.setQueryData(textQuery(project, made.id).queryKey, made)
    texts.saved({ ...made, opening: texts.chosen?.opening ?? '' })
  }
  const navigate = useNavigate()
  const toImports = () => void navigate(`/p/${project}/texts/imports`)
  useKeys([
    ...(lead ? [{ keys: ['i'], caps: ['i'], label: 'import', run: toImports }] : []),
    { keys: ['x'], caps: ['x'], label: 'export', run: () => setExporting(true) },
  ])
  const filtered = search !== '' || split !== ''
  return (
    <Columns
      right={text.data && <About text={text.data} />}
      left={
        <ResourceList
          resource={texts}
          above={
            <Box px="3" pt="3" borderBottomWidth="1px" borderColor="hairline">
              <TextField label="search titles and bodies" value={search} onChange={setSearch} />
              <ChoiceField label="show" value={split} onChange={setSplit} options={[{ value: '', label: 'all splits' }, ...SPLITS]} />
            </Box>
          }
          height={46}
          label="texts"
          row={(head) => <TextRow head={head} />}
          rest={rest}
          act={
            <Flex gap="2" align="center" wrap="wrap">
              {writes && <AddAct resource={texts} />}
              {lead && <QuietAct onClick={toImports}>import</QuietAct>}
              <QuietAct onClick={() => setExporting(true)}>export</QuietAct>
              {lead && <QuietAct onClick={() => setAbbreviations(true)}>abbreviations</QuietAct>}
            </Flex>
          }
        />
      }
    >
      {id !== undefined ? (
        <Ask query={text}>{(open) => <TextSheet key={open.id} text={open} acts={<ResourceActs resource={texts} />} />}</Ask>
      ) : (
        <ResourceSheet
          resource={texts}
          empty={filtered ? 'No text fits this search.' : 'Texts are what everything here is made from. Paste one, or import files; their sentences are then ready for the Desk.'}
        >
          {() => null}
        </ResourceSheet>
      )}
      <ResourceWindows
        resource={texts}
        open={text.data}
        form={(open) => (open ? <TextForm text={open} onClose={texts.close} onDone={onSaved} /> : <TextForm onClose={texts.close} onDone={texts.pick} />)}
        onDelete={(open) => api.DELETE('/api/projects/{project}/texts/{text_id}', { params: { path: { project, text_id: open.id } } })}
        loss={(open) => ({
          name: open.title,
          says: `The text goes with its ${plural(open.sentences, 'sentence')} and whatever is marked in them but not signed. A text with signed sentences is not deleted.`,
        })}
      />
      {exporting && <ExportWindow onClose={() => setExporting(false)} />}
      {abbreviations && <AbbreviationsForm onClose={() => setAbbreviations(false)} />}
    </Columns>
  )
}

function TextRow({ head }: { head: TextHead }) {
  return (
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
          ...(text.source ? [['from', text.place ? `${text.source}, ${text.place}` : text.source] as const] : []),
        ]}
      />
      {Object.keys(text.meta).length > 0 && (
        <Section>
          <Facts facts={Object.entries(text.meta)} />
        </Section>
      )}
      <Section>
        <Box color="second">
          The body of a text never changes, so that every span keeps its place. A click on a sentence opens it at the Desk.
        </Box>
      </Section>
    </>
  )
}
