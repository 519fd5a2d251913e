import { screen } from '@testing-library/react'

import type { AnnotationShown, ChangeWish, DeskSentenceShown, QueuePage, SpanShown } from '../../api/schema'
import { Desk } from './Desk'
import { useOutbox } from './outbox'
import { useDeskSettings } from './settings'
import { forget } from './trail'
import { openPlace, written } from '../../test/fake'

const WORDS = ['Pellin', 'is', 'in', 'from', 'Varnby']
export const TEXT = WORDS.join(' ')
export const tokens = WORDS.map((word, i) => {
  const start = WORDS.slice(0, i).join(' ').length + (i > 0 ? 1 : 0)
  return { start, end: start + word.length }
})
export const span = (start: number, end: number, type: string, more: Partial<SpanShown> = {}): SpanShown => ({
  start, end, type, source: '', why: '', maker: '', probability: null, ...more,
})
export const PELLIN = span(0, 6, 'VES', { source: 'lists', why: 'list vessels, entry “Pellin”' })
export const VARNBY = span(18, 24, 'PRT', { source: 'tagger', probability: 0.9 })

export const QUEUE: QueuePage = {
  items: [1, 2].map((id) => ({ id, text_id: 1, title: '33/1', split: 'train', number: id - 1, words: TEXT, state: 'untouched', spans: 0, asked: false, worth: null })),
  next: null,
  total: 2,
  signed: 0,
  empty: 0,
  asked: 0,
  act: 0,
  first_open: 1,
}

export const NOTHING: AnnotationShown = { state: 'untouched', version: 0, spans: [], turned_down: [], question: '', answer: '' }

export function sentence(id: number, annotation: Partial<AnnotationShown> = {}, more: Partial<DeskSentenceShown> = {}): DeskSentenceShown {
  return {
    id, text: { id: 1, title: '33/1', group: 'week-33', split: 'train' }, number: id - 1, of: 2,
    start: 0, end: TEXT.length, words: TEXT, tokens, before: '', after: ' Nothing further.',
    annotation: { ...NOTHING, ...annotation },
    lanes: { lists: [PELLIN], rules: [], tagger: [VARNBY] }, resolved: [PELLIN, VARNBY], quiet: null, ...more,
  }
}

export const stored = (wish: unknown): AnnotationShown => {
  const { state, version, spans, turned_down, question, answer } = wish as ChangeWish
  const shown = (listed: ChangeWish['spans']) => listed.map((s) => span(s.start, s.end, s.type))
  return { state, version: version + 1, spans: shown(spans), turned_down: shown(turned_down), question, answer }
}

export const ANSWERS = {
  'GET /desk/queue': QUEUE,
  'GET /desk/rounds': { rounds: [], people: [] },
  'GET /desk/pace': { seconds: null },
  'GET /desk/sentences/1/elsewhere': { as_span: {}, inside: {}, bare: 0, sentences: 0 },
  'GET /desk/sentences/2/elsewhere': { as_span: {}, inside: {}, bare: 0, sentences: 0 },
  'GET /desk/sentences/1': sentence(1),
  'GET /desk/sentences/2': sentence(2),
  'PUT /desk/sentences/1': stored,
  'PUT /desk/sentences/2': stored,
}

export const gold = () => [...document.querySelectorAll('[data-lane="gold"] [data-span]')].map((bar) => bar.textContent)
export const acts = (asked: Parameters<typeof written>[0]) =>
  written(asked).map(({ what, body }) => {
    const { kind, state, version, spans } = body as ChangeWish
    return [what, kind, state, version, spans.map((s) => s.type).join(' ')]
  })

/** Call it in each module of tests: what a page keeps would be wrong for the next. */
export const freshDesk = () => {
  localStorage.clear()
  forget()
  useOutbox.setState({ pending: [], holding: false, conflict: null })
  useDeskSettings.setState({ hidden: ['together'], lastType: null, rounds: {} })
}

export async function openDesk(answers = {}, path = 'desk/1') {
  const opened = openPlace(<Desk />, path, { ...ANSWERS, ...answers })
  await screen.findByText(/sentence \d of 2/)
  return opened
}
