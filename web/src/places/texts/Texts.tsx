import { Box, Flex } from '@chakra-ui/react'
import { type InfiniteData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query'
import { useDeferredValue, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'

import { api, body } from '../../api/client'
import { invalidate } from '../../api/live'
import { useIsLead, useMayAnnotate, useProject } from '../../api/project'
import type { FilterWish, SomeTexts, TextActShown, TextHead, TextPage, TextShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, BadAct, CheckField, QuietAct } from '../../parts/controls'
import { type KeyBinding, useKeys } from '../../parts/keys'
import { Columns, Heading, Section } from '../../parts/layout'
import { AddAct, ResourceActs, ResourceList, ResourceSheet, ResourceWindows } from '../../parts/ResourcePlace'
import { Mark } from '../../parts/Mark'
import { Facts } from '../../parts/signs'
import { usePages } from '../../parts/usePages'
import { useAct } from '../../parts/useAct'
import { useMarks } from '../../parts/useMarks'
import { type Offer, useResource } from '../../parts/useResource'
import { longDate, number, plural } from '../../parts/words'
import { AbbreviationsForm } from './AbbreviationsForm'
import { Aside } from './Aside'
import { tellDone, useUndo } from './atOnce'
import { BinWindow } from './BinWindow'
import { ChangeWindow } from './ChangeWindow'
import { ExportWindow } from './ExportWindow'
import { wishOf } from './filter'
import { FilterLine } from './FilterLine'
import { MoreActs } from './MoreActs'
import { countQuery, latestActQuery, textQuery, textsQuery, type TextsWish } from './queries'
import { SplitsWindow } from './SplitsWindow'
import { TextForm } from './TextForm'
import { TextSheet } from './TextSheet'
import { TextsTabs } from './TextsTabs'
import { useTextFilter } from './useTextFilter'

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
  const filtering = useTextFilter()
  const { filter, search } = filtering
  const [opened, setOpened] = useState<Opened>(null)
  const close = () => setOpened(null)
  // A letter more of what is searched for is not waited for.
  const wish = useDeferredValue(JSON.stringify(wishOf(filter)))
  const asked = useMemo(() => JSON.parse(wish) as TextsWish, [wish])
  const { queryKey, ...listed } = textsQuery(project, asked)
  const query = useInfiniteQuery({ queryKey, ...listed })
  const { rows, rest } = usePages(query, rowsOf)
  const offers: Offer[] = [...(writes ? (['add'] as const) : []), ...(lead ? (['edit', 'delete'] as const) : [])]
  const texts = useResource<TextHead, Pages>({ place: 'texts', one: 'text', query, queryKey, rows, within, offers, addLabel: 'paste a new text', editLabel: 'edit title, group, split', search })
  const marks = useMarks(rows ?? NO_ROWS, wish)
  // A text may stand on a page of the list that has not been fetched.
  const id = rows?.length === 0 ? undefined : (texts.chosen?.id ?? texts.wanted ?? undefined)
  const text = useQuery({ ...textQuery(project, id ?? 0), enabled: id !== undefined })
  const client = useQueryClient()
  const onSaved = (made: TextShown) => {
    client.setQueryData(textQuery(project, made.id).queryKey, made)
    texts.saved({ ...made, opening: texts.chosen?.opening ?? '' })
  }
  const undo = useUndo()
  const latest = useQuery({ ...latestActQuery(project), enabled: lead }).data?.act
  const done = (act: TextActShown) => {
    invalidate(client, project, 'texts')
    marks.clear()
    tellDone(act, undo.run)
  }
  const counts = useQuery(countQuery(project, asked))
  const found = counts.data?.found ?? 0
  const count = marks.marks.all ? found : marks.marks.some.size
  const some: SomeTexts = marks.marks.all ? { filter: JSON.parse(wish) as FilterWish, expected: found } : { texts: [...marks.marks.some] }
  const removal = useAct(() => body(api.POST('/api/projects/{project}/texts/removals', { params: { path: { project } }, body: some })), {
    onDone: (act) => {
      // What is gone is not asked for again.
      client.setQueryData<Pages>(queryKey, (data) => data && within(data, (old) => old.filter((row) => !marks.has(row.id))))
      if (id !== undefined && marks.has(id)) texts.pick(null)
      client.removeQueries({ predicate: ({ queryKey: [, , place, what, which] }) => place === 'texts' && what === 'one' && marks.has(Number(which)) })
      done(act)
    },
  })
  const navigate = useNavigate()
  const toImports = () => void navigate(`/p/${project}/texts/imports`)
  const keys: KeyBinding[] = [
    { keys: ['x'], caps: ['x'], label: 'export', run: () => setOpened('export') },
  ]
  const leads: KeyBinding[] = [
    { keys: ['i'], caps: ['i'], label: 'import', run: toImports },
    { keys: ['m'], caps: ['m'], label: 'mark', run: () => id !== undefined && marks.toggle(id) },
    { keys: ['ctrl+a'], caps: ['ctrl', 'a'], label: 'mark all', run: marks.markAll, quiet: true },
    ...(latest ? [{ keys: ['ctrl+z'], caps: ['ctrl', 'z'], label: 'undo', run: () => undo.run(latest.id) }] : []),
  ]
  useKeys(lead ? [...keys, ...leads] : keys)
  const filtered = search !== ''
  return (
    <Columns
      right={text.data && <About text={text.data} />}
      left={
        <ResourceList
          resource={texts}
          above={
            <>
              <TextsTabs at="" search={search} />
              <FilterLine texts={filtering} counts={counts.data} />
              {lead && (rows?.length ?? 0) > 0 && (
                <Box px="3" py="1.5" borderBottomWidth="1px" borderColor="hairline">
                  <CheckField label={marks.any ? `${number(count)} marked` : 'mark all'} checked={marks.any} onChange={(on) => (on ? marks.markAll() : marks.clear())} />
                </Box>
              )}
            </>
          }
          height={46}
          label="texts"
          row={(head) => <TextRow head={head} marks={lead ? marks : undefined} />}
          rest={rest}
          act={
            marks.any ? (
              <Flex gap="2" align="center" wrap="wrap" role="group" aria-label="marked texts">
                <Act onClick={() => setOpened('change')}>change {number(count)}</Act>
                <BadAct loading={removal.busy} onClick={() => removal.run()}>
                  delete {number(count)}
                </BadAct>
                <QuietAct onClick={marks.clear}>unmark</QuietAct>
              </Flex>
            ) : (
              <Flex gap="2" align="center" wrap="wrap">
                {writes && <AddAct resource={texts} />}
                {lead && <QuietAct onClick={toImports}>import</QuietAct>}
                <QuietAct onClick={() => setOpened('export')}>export</QuietAct>
                <MoreActs
                  acts={[
                    ['splits', () => setOpened('splits')],
                    ...(lead ? [['bin', () => setOpened('bin')] as const, ['abbreviations', () => setOpened('abbreviations')] as const] : []),
                  ]}
                />
              </Flex>
            )
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
        onDelete={async (open) => tellDone(await body(api.DELETE('/api/projects/{project}/texts/{text_id}', { params: { path: { project, text_id: open.id } } })), undo.run)}
        loss={(open) => ({
          name: open.title,
          says: `The text goes into the bin with its ${plural(open.sentences, 'sentence')}, ${plural(open.signed, 'signed one', 'signed ones')} among them, and all that is marked there. It can be put back from there.`,
        })}
      />
      {opened === 'export' && <ExportWindow shown={filtered ? { wish: JSON.parse(wish) as TextsWish, count: found } : undefined} onClose={close} />}
      {opened === 'abbreviations' && <AbbreviationsForm onClose={close} />}
      {opened === 'change' && <ChangeWindow count={count} some={some} onClose={close} onDone={done} />}
      {opened === 'bin' && <BinWindow onClose={close} />}
      {opened === 'splits' && <SplitsWindow onClose={close} onDone={done} />}
    </Columns>
  )
}

/** What stands open over the list. */
type Opened = 'export' | 'abbreviations' | 'change' | 'bin' | 'splits' | null

const NO_ROWS: readonly TextHead[] = []

function TextRow({ head, marks }: { head: TextHead; marks: ReturnType<typeof useMarks> | undefined }) {
  return (
    <Flex px="2.5" py="1" gap="1.5" align="flex-start">
      {marks && <Mark id={head.id} name={head.title} marks={marks} />}
      <Box flex="1" minW="0">
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
    </Flex>
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
      {text.aside.length > 0 && <Aside text={text} />}
      <Section>
        <Box color="second">
          The body of a text never changes, so that every span keeps its place. A click on a sentence opens it at the Desk.
        </Box>
      </Section>
    </>
  )
}
