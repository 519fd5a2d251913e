import { screen } from '@testing-library/react'

import type { AnnotationShown, DeskSentenceShown, EvidenceShown, QueueCounts, QueuePage, SpanShown } from '../../api/schema'
import { Desk } from './Desk'
import { Keeper } from './Keeper'
import { EMPTY, useOutbox } from './outbox'
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
/** A span as a source finds it. */
export const found = (start: number, end: number, type: string, more: Partial<EvidenceShown> = {}): EvidenceShown => ({
  ...span(start, end, type), doubt: '', overruled: '', taken: '', ...more,
})
export const PELLIN = found(0, 6, 'VES', { source: 'lists', why: 'list vessels, entry “Pellin”' })
export const VARNBY = found(18, 24, 'PRT', { source: 'tagger', probability: 0.9 })

export const QUEUE: QueuePage = {
  items: [1, 2].map((id) => ({ id, text_id: 1, title: '33/1', split: 'train', number: id - 1, of: 2, words: TEXT, state: 'untouched', spans: 0, asked: false, worth: null })),
  previous: null,
  next: null,
  moment: 0,
}

export const COUNTS: QueueCounts = { total: 2, signed: 0, empty: 0, asked: 0, first_open: 1 }

export const NOTHING: AnnotationShown = { state: 'untouched', version: 0, spans: [], turned_down: [], question: '', answer: '' }

export function sentence(id: number, annotation: Partial<AnnotationShown> = {}, more: Partial<DeskSentenceShown> = {}): DeskSentenceShown {
  return {
    id, text: { id: 1, title: '33/1', group: 'week-33', split: 'train', source: '', place: '' }, number: id - 1, of: 2,
    start: 0, end: TEXT.length, words: TEXT, tokens, before: '', after: ' Nothing further.', aside: [],
    annotation: { ...NOTHING, ...annotation },
    lanes: { lists: [PELLIN], rules: [], tagger: [VARNBY] }, resolved: [PELLIN, VARNBY], weighs_from: null, quiet: null, ...more,
  }
}

/** What was asked of a sentence, as the server takes it; each kind carries but some of these. */
export interface Sent {
  kind: string
  version: number
  token: string
  spans?: { start: number; end: number; type: string }[]
  turned_down?: { start: number; end: number; type: string }[]
  verdicts?: unknown[]
  question?: string
  answer?: string
}

/** As the server answers acts that change spans, on sentences without questions. */
export const stored = (wish: unknown): AnnotationShown => {
  const { kind, version, spans = [], turned_down = [], question = '', answer = '' } = wish as Sent
  const shown = (listed: NonNullable<Sent['spans']>) => listed.map((s) => span(s.start, s.end, s.type))
  const state = kind.startsWith('sign') ? 'signed' : 'spans' in (wish as Sent) ? 'draft' : 'untouched'
  return { state, version: version + 1, spans: shown(spans), turned_down: shown(turned_down), question, answer }
}

/** A sentence whose question and answer are kept from act to act. */
export const keeping = () => {
  let kept = NOTHING
  return (wish: unknown): AnnotationShown => {
    const { question = kept.question, answer = kept.answer, version, ...rest } = { ...(wish as Sent) }
    const fresh = rest.kind === 'ask' || rest.kind === 'answer' ? kept : stored(wish)
    kept = { ...fresh, question, answer: rest.kind === 'ask' ? '' : answer, version: version + 1 }
    return kept
  }
}

export const ANSWERS = {
  'GET /desk/queue': QUEUE,
  'GET /desk/queue/counts': COUNTS,
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
    const { kind, version, spans = [] } = body as Sent
    return [what, kind, version, spans.map((s) => s.type).join(' ')]
  })

/** Call it in each module of tests: what a page keeps would be wrong for the next. */
export const freshDesk = () => {
  localStorage.clear()
  forget()
  useOutbox.setState(EMPTY)
  useDeskSettings.setState({ hidden: ['together'], lastType: null, rounds: {} })
}

/** The Desk as the frame has it: with what looks after acts on their way. */
export const DeskInFrame = () => (
  <>
    <Keeper />
    <Desk />
  </>
)

export async function openDesk(answers = {}, path = 'desk/1') {
  const opened = openPlace(<DeskInFrame />, path, { ...ANSWERS, ...answers })
  await screen.findByText(/sentence \d of 2/)
  return opened
}
