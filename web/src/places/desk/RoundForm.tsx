import { Grid } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, messageOf } from '../../api/client'
import { invalidate } from '../../api/live'
import { useProject } from '../../api/project'
import type { AskedShown, RoundShown, RoundWish } from '../../api/schema'
import { CheckFields, ChoiceField, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { number, plural } from '../../parts/words'
import { type Passage, queueTextsQuery } from './queries'

interface RoundFormProps {
  /** The round to change; null for a new one. */
  round: RoundShown | null
  people: readonly AskedShown[]
  passage: Passage
  onClose: () => void
}

type Source = 'own' | 'more' | 'other'

const SUGGESTIONS = [
  { value: 'yes', label: 'shown' },
  { value: 'no', label: 'none: the sentence alone' },
]

/** A round as the server takes it, without a change of its texts. */
export function wishOf({ name, note, priority, suggestions, open, people }: RoundShown): RoundWish {
  return { name, note, priority, suggestions, open, people: people.map(({ id }) => id), texts: [], keep_texts: true }
}

const FRESH: RoundWish = { name: '', note: '', priority: 1, suggestions: true, open: true, people: [], texts: [], keep_texts: true }

/** What a round is called, whom it asks, whether anything is suggested, and which texts it holds. */
export function RoundForm({ round, people, passage, onClose }: RoundFormProps) {
  const project = useProject()
  const client = useQueryClient()
  const [wish, setWish] = useState(round ? wishOf(round) : FRESH)
  const [priority, setPriority] = useState(String(wish.priority))
  const [source, setSource] = useState<Source>(round ? 'own' : 'more')
  const queued = useQuery({ ...queueTextsQuery(project, passage), enabled: source !== 'own' })
  // Untouched it means all, however many still come in.
  const [count, setCount] = useState<string | null>(null)
  const set = (change: Partial<RoundWish>) => setWish({ ...wish, ...change })
  const send = async (over?: number) => {
    if (source !== 'own' && !queued.data) throw new Error(queued.isError ? messageOf(queued.error) : 'The texts of the queue are still being listed.')
    const texts = queued.data?.texts ?? []
    const wanted = source === 'own' ? [] : texts.slice(0, count === null ? texts.length : Math.max(0, Math.trunc(Number(count)) || 0))
    const whole: RoundWish = { ...wish, priority: Math.trunc(Number(priority)) || 0, texts: wanted, keep_texts: source !== 'other' }
    if (round) {
      await api.PUT('/api/projects/{project}/desk/rounds/{round_id}', { params: { path: { project, round_id: round.id } }, body: { ...whole, version: over ?? round.version } })
    } else {
      await api.POST('/api/projects/{project}/desk/rounds', { params: { path: { project } }, body: whole })
    }
    invalidate(client, project, 'rounds')
  }
  const sources: { value: Source; label: string }[] = [
    { value: 'own', label: `its ${plural(round?.texts ?? 0, 'text')}, as they are` },
    { value: 'more', label: 'its own and those of the queue' },
    { value: 'other', label: 'those of the queue in their place' },
  ]
  const listed = queued.data ? `${number(queued.data.texts.length)} now` : queued.isError ? 'they could not be listed' : 'they are being listed'
  return (
    <FormWindow
      title={round ? `Round ${round.name}` : 'New round'}
      send={round ? 'save' : 'add'}
      fields={['name', 'note', 'priority', 'people', 'texts']}
      onClose={onClose}
      onSend={send}
    >
      {(errorOf) => (
        <>
          <Grid templateColumns="2fr 1fr" columnGap="4">
            <TextField label="name" value={wish.name} onChange={(name) => set({ name })} autoFocus error={errorOf('name')} />
            <TextField label="priority, 1 comes first" type="number" value={priority} onChange={setPriority} error={errorOf('priority')} />
          </Grid>
          <TextField label="note to the annotators" value={wish.note} lines={3} onChange={(note) => set({ note })} error={errorOf('note')} />
          <ChoiceField
            label="suggestions"
            value={wish.suggestions ? 'yes' : 'no'}
            options={SUGGESTIONS}
            onChange={(value) => set({ suggestions: value === 'yes' })}
            help="Without them its texts show no evidence to anybody for as long as the round is open."
          />
          <CheckFields
            legend="who is asked"
            options={people.map(({ id, name }) => ({ value: String(id), label: name }))}
            chosen={wish.people.map(String)}
            onChange={(chosen) => set({ people: chosen.map(Number) })}
            error={errorOf('people')}
            help="The Desk opens in the round for those who are asked; none ticked means everybody."
          />
          {round && <ChoiceField label="texts" value={source} options={sources} onChange={(value) => setSource(value as Source)} />}
          {source !== 'own' && (
            <TextField
              label={`how many texts of the queue, from its top: ${listed}`}
              type="number"
              value={count ?? (queued.data ? String(queued.data.texts.length) : '')}
              onChange={setCount}
              error={errorOf('texts')}
              help="As it is listed at the left: its order, texts, search, and what it shows decide which come first."
            />
          )}
        </>
      )}
    </FormWindow>
  )
}
