import { Box, Flex, Grid } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { useProject } from '../../api/project'
import type { TypeShown } from '../../api/schema'
import { ChoiceField, LinkAct, TextField } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { FormWindow } from '../../parts/Window'
import { type Order, type Passage, type Portion, queueQuery, type Search } from './queries'
import { formOf, NO_SEARCH, searchOf, type SearchForm, SOURCES, STATES } from './search'

interface SearchWindowProps {
  search: Search | null
  passage: Passage
  types: readonly TypeShown[]
  onClose: () => void
  onSearch: (order: Order) => void
}

const FIELDS = ['words', 'source', 'type', 'named', 'least', 'most', 'state', 'title', 'group', 'since', 'until']

/** In which part of the texts was looked. */
function within({ split, round }: Portion): string {
  return [split && `of ${split} `, round !== null && 'of this round '].filter(Boolean).join('')
}

/** Say what a sentence has to be; the queue then holds those that are. */
export function SearchWindow({ search, passage, types, onClose, onSearch }: SearchWindowProps) {
  const project = useProject()
  const client = useQueryClient()
  const navigate = useNavigate()
  const [form, setForm] = useState(formOf(search))
  const set = (name: keyof SearchForm) => (value: string) => setForm({ ...form, [name]: value })
  const send = async () => {
    const wanted = { ...passage.order, search: searchOf(form), turn: Date.now() }
    // Asked here first, so that what cannot be searched is said at its field.
    const { pages } = await client.infiniteQuery(queueQuery(project, { ...passage, order: wanted }, null))
    const first = pages[0]?.items[0]
    if (!first) throw new Error(`No sentence ${within(passage)}matches the search.`)
    onSearch(wanted)
    await navigate(`/p/${project}/desk/${first.id}`)
  }
  const typeOptions = [{ value: '', label: 'any' }, ...types.map((t) => ({ value: t.code, label: `${t.code} ${t.name}` }))]
  return (
    <FormWindow title="Search sentences" send="search" fields={FIELDS} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <Box>
          <TextField label="words in the sentence" value={form.words} onChange={set('words')} autoFocus error={errorOf('words')} />
          <Heading>A span in it</Heading>
          <Grid templateColumns="1fr 1fr" columnGap="3">
            <ChoiceField label="found by" value={form.source} onChange={set('source')} options={SOURCES} error={errorOf('source')} />
            <ChoiceField label="type" value={form.type} onChange={set('type')} options={typeOptions} error={errorOf('type')} />
          </Grid>
          <TextField
            label="text of the span"
            value={form.named}
            onChange={set('named')}
            error={errorOf('named')}
            help="The whole span: “Sill Wharf” does not find “Sill Wharf 4”. Case is ignored."
          />
          <Grid templateColumns="1fr 1fr" columnGap="3">
            <TextField label="probability from, %" value={form.least} onChange={set('least')} error={errorOf('least')} />
            <TextField label="to, %" value={form.most} onChange={set('most')} error={errorOf('most')} />
          </Grid>
          <Heading>The sentence and its text</Heading>
          <ChoiceField label="state" value={form.state} onChange={set('state')} options={STATES} error={errorOf('state')} />
          <Grid templateColumns="1fr 1fr" columnGap="3">
            <TextField label="in the title" value={form.title} onChange={set('title')} error={errorOf('title')} />
            <TextField label="group" value={form.group} onChange={set('group')} error={errorOf('group')} />
            <TextField label="dated from" type="date" value={form.since} onChange={set('since')} error={errorOf('since')} />
            <TextField label="to" type="date" value={form.until} onChange={set('until')} error={errorOf('until')} />
          </Grid>
          <Flex justify="space-between" color="second" fontSize="small">
            <span>All conditions must hold. Evidence is not searched in test texts, nor where a round is annotated without suggestions.</span>
            <LinkAct onClick={() => setForm(NO_SEARCH)}>clear all fields</LinkAct>
          </Flex>
        </Box>
      )}
    </FormWindow>
  )
}
