import { act, fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { RuleLanguageShown, RuleShown, RuleWish, TrialShown } from '../../api/schema'
import { openPlace, Refusal, written } from '../../test/fake'
import { drafts, fragmentDrafts } from './drafts'
import { Rules } from './Rules'

// What one types in it is tried in a browser.
vi.mock('./PatternEditor', () => ({
  default: ({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) => (
    <textarea aria-label={label} value={value} onChange={(event) => onChange(event.target.value)} />
  ),
}))

const RULE: RuleShown = {
  id: 1, version: 1, name: 'four figures', type: 'VES', pattern: '\\d{4}', must_find: ['at 0600'], must_not_find: ['crane 2'], about: 'Times of the log.',
  on: true, failing: 1, finds: 3, right: 1, judged: 2, trouble: null, aloud: ['It marks a word that /\\d{4}/ matches as VES.'], leans: { tags: [], lemmas: false },
  priority: 'usual', takes: false, alone: 1, missed: 4,
}
const TRIAL: TrialShown = {
  examples: [
    { text: '🚢 at 0600', wanted: true, holds: true, found: [{ start: 5, end: 9, type: 'VES', source: 'rules', probability: null, maker: '', why: '' }] },
    { text: 'crane 2', wanted: false, holds: false, found: [{ start: 6, end: 7, type: 'VES', source: 'rules', probability: null, maker: '', why: '' }] },
  ],
  finds: 3, right: 1, judged: 2, takes: false, texts: 40, all: false, aloud: ['It marks figures as VES.'], leans: { tags: [], lemmas: false }, staves: [],
}
const UNIT = { id: 4, version: 2, name: 'unit', about: 'Of weight.', pattern: "('t' or 'kg')", used_by: ['amount'] }
const LANGUAGE: RuleLanguageShown = {
  tags: [
    { tag: 'NOUN', about: 'noun: pilot', gold: 50, found: 40, right: 38 },
    { tag: 'VERB', about: 'verb: sailed', gold: 20, found: 20, right: 19 },
    { tag: 'X', about: 'none of these', gold: 0, found: 0, right: 0 },
  ],
  held_out: [{ source: 'bulletins', words: 1000, right: 951, known: 800, known_right: 780, unknown: 200, unknown_right: 171, lemmas_right: 996 }],
  kinds: ['person', 'place'],
  ready_made: [{ name: 'noun phrase', pattern: 'tag(NOUN)', about: 'A noun.' }],
}
const ANSWERS = { 'GET /rules': [RULE], 'POST /rules/try': TRIAL, 'GET /rules/1/finds': { total: 0, staves: [], next: null }, 'GET /rules/acts/latest': { act: null }, 'GET /rules/fragments': [UNIT], 'GET /lists': [], 'GET /rules/language': LANGUAGE }
const BROKEN = new Refusal(422, { detail: 'Line 1, column 2: something is missing here.', field: 'pattern', offset: 1, end: 1 })

beforeEach(() => {
  drafts.clear()
  fragmentDrafts.clear()
})

describe('Rules', () => {
  it('shows the examples with what was found in bold, and which fail', async () => {
    openPlace(<Rules />, 'rules/1', ANSWERS)
    expect(await screen.findByLabelText('holds')).toBeInTheDocument()
    expect(screen.getByText('0600').tagName).toBe('B')
    expect(screen.getByLabelText('fails')).toBeInTheDocument()
    expect(screen.getByRole('option', { name: /four figures/ })).toHaveTextContent('1 failing')
    expect(screen.getByText('It marks a word that /\\d{4}/ matches as VES.')).toBeInTheDocument()
  })

  it('says what each part took, and which words let wrong finds through', async () => {
    const slots = {
      finds: 4, right: 3, alone: 1, shared: [{ rule: 'another', finds: 2 }],
      slots: [
        { line: 0, said: 'a word with a capital', marked: true, distinct: 9, taken: [{ words: 'The', right: 0, wrong: 3 }, { words: 'Tarn', right: 1, wrong: 0 }] },
        { line: 0, said: 'the end of the sentence', marked: false, distinct: 1, taken: [{ words: '', right: 1, wrong: 3 }] },
      ],
    }
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules/1/slots': slots })
    await userEvent.click(await screen.findByRole('button', { name: /what each part took/ }))
    expect(await screen.findByText('3 wrong')).toBeInTheDocument()
    expect(screen.getByText(/Of 3 right ones 1 are found by no other rule; another finds 2 of them too\./)).toBeInTheDocument()
    expect(screen.getByText('and 7 more')).toBeInTheDocument()
    expect(screen.getByText('nothing')).toBeInTheDocument()
    expect(screen.getByText('3 wrong, 1 right')).toBeInTheDocument()
  })

  it('says what a rule leans on, and how often that is right', async () => {
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules': [{ ...RULE, leans: { tags: ['NOUN', 'X'], lemmas: true } }] })
    expect(await screen.findByText(/It leans on what is known of words/)).toHaveTextContent('Right in sentences held out: 95.0 % of words tagged NOUN, 99.6 % of lemmas.')
  })

  it('takes an offer, and asks before it replaces a new rule that is not saved', async () => {
    const offer = { pattern: "'pilot' [ capital ]", right: 9, wrong: 0, adds: 4, aloud: ['After “pilot”.'] }
    const answers = { ...ANSWERS, 'GET /rules': [], 'POST /rules/offers': { offers: [offer], sentences: 20, all: true } }
    drafts.set('tessmar new', { wish: { name: 'mine', type: 'VES', pattern: 'capital', must_find: [], must_not_find: [], about: '', on: true, priority: 'usual' }, find: '', notFind: '' })
    openPlace(<Rules />, 'rules', answers)
    await userEvent.click(await screen.findByRole('button', { name: 'rules from gold' }))
    await userEvent.click(await screen.findByRole('button', { name: 'take it' }))
    expect(await screen.findByText('Another new rule is not saved')).toBeInTheDocument()
    expect(drafts.get('tessmar new')?.wish.name).toBe('mine')
    await userEvent.click(screen.getByRole('button', { name: 'replace it' }))
    expect(await screen.findByLabelText('pattern')).toHaveValue("'pilot' [ capital ]")
  })

  it('takes over a ready-made fragment', async () => {
    const { asked } = openPlace(<Rules />, 'rules', { ...ANSWERS, 'POST /rules/fragments': { ...UNIT, id: 9, name: 'noun phrase' } })
    await userEvent.click(await screen.findByRole('button', { name: 'new fragment' }))
    await userEvent.click(await screen.findByRole('button', { name: 'noun phrase' }))
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    await waitFor(() => expect(written(asked).map(({ body }) => body)).toContainEqual({ name: 'noun phrase', pattern: 'tag(NOUN)', about: 'A noun.' }))
  })

  it('says how words are tagged where the language has tags, and that there are none where not', async () => {
    const none = { ...LANGUAGE, tags: [], held_out: [] }
    openPlace(<Rules />, 'rules', { ...ANSWERS, 'GET /rules': [], 'GET /rules/language': none })
    await userEvent.click(await screen.findByRole('button', { name: 'words and phrases' }))
    expect(await screen.findByText(/There are no parts of speech/)).toBeInTheDocument()
  })

  it('tries a pattern while it is typed and says where it is broken', async () => {
    const answer = (wish: unknown) => ((wish as RuleWish).pattern.includes('(') ? BROKEN : TRIAL)
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'POST /rules/try': answer })
    await screen.findByLabelText('holds')
    await userEvent.keyboard('e')
    fireEvent.change(await screen.findByLabelText('pattern'), { target: { value: '(\\d' } })
    expect(await screen.findByRole('alert')).toHaveTextContent('Line 1, column 2: something is missing here.')
    fireEvent.change(screen.getByLabelText('pattern'), { target: { value: '\\d' } })
    await waitFor(() => expect(screen.queryByRole('alert')).toBeNull())
    expect(screen.getByText(/finds 3 spans in the first 40 texts of the project; of 2 spans in signed sentences 1 are right/)).toBeInTheDocument()
  })

  it('saves by key from within the pattern, with its spaces', async () => {
    const { asked } = openPlace(<Rules />, 'rules', { ...ANSWERS, 'POST /rules': RULE })
    await userEvent.click(await screen.findByRole('button', { name: 'new rule' }))
    await userEvent.type(screen.getByLabelText('name'), 'spaced')
    const pattern = screen.getByLabelText('pattern')
    fireEvent.change(pattern, { target: { value: ' t\\b ' } })
    fireEvent.keyDown(pattern, { key: 'Enter', ctrlKey: true })
    await waitFor(() => expect(written(asked).some(({ what }) => what === 'POST /rules')).toBe(true))
    const sent = written(asked).find(({ what }) => what === 'POST /rules')
    expect(sent?.body).toEqual({ name: 'spaced', type: 'VES', pattern: ' t\\b ', must_find: [], must_not_find: [], about: '', on: true, priority: 'usual' })
  })

  it('leaves a rule as it was', async () => {
    const { asked } = openPlace(<Rules />, 'rules/1', ANSWERS)
    await screen.findByLabelText('holds')
    await userEvent.keyboard('e')
    const pattern = await screen.findByLabelText('pattern')
    fireEvent.change(pattern, { target: { value: 'other' } })
    fireEvent.keyDown(pattern, { key: 'Escape' })
    // A key alone throws away nothing.
    expect(await screen.findByRole('alert')).toHaveTextContent('What you typed is not saved.')
    await userEvent.click(screen.getByRole('button', { name: 'go on typing' }))
    expect(pattern).toHaveValue('other')
    fireEvent.keyDown(pattern, { key: 'Escape' })
    await userEvent.click(await screen.findByRole('button', { name: 'discard it' }))
    expect(await screen.findByText((_, element) => element?.tagName === 'PRE' && element.textContent === '\\d{4}')).toBeInTheDocument()
    expect(written(asked).every(({ what }) => what === 'POST /rules/try')).toBe(true)
  })

  it('leaves at once where nothing was typed', async () => {
    openPlace(<Rules />, 'rules/1', ANSWERS)
    await screen.findByLabelText('holds')
    await userEvent.keyboard('e')
    fireEvent.keyDown(await screen.findByLabelText('pattern'), { key: 'Escape' })
    expect(await screen.findByText((_, element) => element?.tagName === 'PRE' && element.textContent === '\\d{4}')).toBeInTheDocument()
  })

  it('has what was typed when one comes back from another rule', async () => {
    const other = { ...RULE, id: 2, name: 'noon', pattern: 'noon' }
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules': [RULE, other], 'GET /rules/2/finds': { total: 0, staves: [], next: null } })
    await screen.findByLabelText('holds')
    await userEvent.keyboard('e')
    fireEvent.change(await screen.findByLabelText('pattern'), { target: { value: 'half typed' } })
    await userEvent.click(screen.getByRole('option', { name: /noon/ }))
    expect(await screen.findByText('noon', { selector: 'pre' })).toBeInTheDocument()
    await userEvent.click(screen.getByRole('option', { name: /four figures/ }))
    expect(await screen.findByLabelText('pattern')).toHaveValue('half typed')
    expect(screen.getByText('What you typed before is still here, not saved.')).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'cancel' }))
    expect(drafts.size).toBe(0)
  })

  it('says when a rule was too slow for the texts', async () => {
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules': [{ ...RULE, trouble: 'The pattern took more than 3 000 000 steps on one text.' }] })
    expect(await screen.findByText(/took more than 3 000 000 steps/)).toBeInTheDocument()
  })

  it('moves a rule, which the server is told', async () => {
    const other = { ...RULE, id: 2, name: 'noon' }
    const { asked } = openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules': [RULE, other], 'PUT /rules/1/place': null })
    await screen.findByLabelText('holds')
    expect(screen.getByRole('button', { name: 'move up' })).toBeDisabled()
    await userEvent.click(screen.getByRole('button', { name: 'move down' }))
    await waitFor(() => expect(written(asked).find(({ what }) => what === 'PUT /rules/1/place')?.body).toEqual({ place: 1 }))
  })

  it('opens a fragment, changes it, and goes back', async () => {
    const { asked } = openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'PUT /rules/fragments/4': { ...UNIT, version: 3 } })
    await userEvent.click(await screen.findByRole('button', { name: 'unit' }))
    expect(screen.getByText(/used by amount/)).toBeInTheDocument()
    await userEvent.keyboard('e')
    fireEvent.change(await screen.findByLabelText('pattern'), { target: { value: "'t'" } })
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    await waitFor(() => expect(written(asked).find(({ what }) => what === 'PUT /rules/fragments/4')?.body).toMatchObject({ pattern: "'t'", version: 2 }))
    await screen.findByRole('button', { name: 'edit' })
    await userEvent.keyboard('{Escape}')
    expect(await screen.findByRole('heading', { name: /four figures/ })).toBeInTheDocument()
  })

  it('keeps a new fragment that is refused, and says why', async () => {
    const refusal = new Refusal(409, { detail: 'There is already a fragment “unit”; choose another name.', field: 'name' })
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'POST /rules/fragments': refusal })
    await userEvent.click(await screen.findByRole('button', { name: 'new fragment' }))
    fireEvent.change(await screen.findByLabelText('name'), { target: { value: 'unit' } })
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    expect(await screen.findByRole('alert')).toHaveTextContent('already a fragment')
    expect(screen.getByLabelText('name')).toHaveValue('unit')
  })

  it('deletes a fragment once one is sure', async () => {
    const { asked } = openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'DELETE /rules/fragments/4': null })
    await userEvent.click(await screen.findByRole('button', { name: 'unit' }))
    await userEvent.click(screen.getByRole('button', { name: 'delete' }))
    const window = await screen.findByRole('dialog')
    expect(window).toHaveTextContent('unit')
    await userEvent.click(within(window).getByRole('button', { name: 'delete' }))
    await waitFor(() => expect(written(asked).some(({ what }) => what === 'DELETE /rules/fragments/4')).toBe(true))
  })

  it('has what was typed for a fragment when one comes back from a rule', async () => {
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'POST /rules/words': { words: [], lists: [], rules: [], phrases: [] } })
    await userEvent.click(await screen.findByRole('button', { name: 'unit' }))
    await userEvent.keyboard('e')
    fireEvent.change(await screen.findByLabelText('pattern'), { target: { value: "'half' typed" } })
    await userEvent.click(screen.getByRole('button', { name: 'words and phrases' }))
    expect(await screen.findByRole('heading', { name: 'Words and phrases' })).toBeInTheDocument()
    await userEvent.click(screen.getByRole('button', { name: 'unit' }))
    expect(await screen.findByLabelText('pattern')).toHaveValue("'half' typed")
    await userEvent.click(screen.getByRole('button', { name: 'cancel' }))
    expect(fragmentDrafts.size).toBe(0)
  })

  it('sorts rules by what each adds, and moves none meanwhile', async () => {
    const most = { ...RULE, id: 2, name: 'noon', alone: 7, right: 8, judged: 20 }
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules': [RULE, most] })
    const names = () => within(screen.getByRole('listbox', { name: 'rules' })).getAllByRole('option').map((row) => row.textContent)
    await screen.findByLabelText('holds')
    expect(names()[0]).toMatch(/^four figures3 · 50 %/)
    expect(screen.getByRole('button', { name: 'move down' })).toBeEnabled()
    await userEvent.selectOptions(screen.getByLabelText('rules stand'), 'by what each adds')
    expect(names()[0]).toMatch(/^noon7 · 40 %/)
    expect(screen.getByText('adds · right')).toBeInTheDocument()
    expect(screen.getByRole('button', { name: 'move down' })).toBeDisabled()
    await userEvent.selectOptions(screen.getByLabelText('rules stand'), 'by wrong finds')
    expect(names()[0]).toMatch(/^noon3/)
  })

  it('sends where a rule stands among others, and says so', async () => {
    const { asked } = openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules': [{ ...RULE, priority: 'low' }], 'PUT /rules/1': RULE })
    expect(await screen.findByRole('heading', { name: /gives way to other rules/ })).toBeInTheDocument()
    await userEvent.keyboard('e')
    await userEvent.selectOptions(await screen.findByLabelText('where it meets other rules'), 'its spans stay')
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    await waitFor(() => expect(written(asked).find(({ what }) => what === 'PUT /rules/1')?.body).toMatchObject({ priority: 'high', version: 1 }))
  })

  const found = (start: number, end: number, type: string) => ({ start, end, type, source: 'rules', probability: null, maker: '', why: '' })
  const stave = {
    sentence_id: 9, text_id: 3, title: '33/1', number: 0, start: 0, end: 9, words: 'at 0600 t', tokens: [{ start: 0, end: 2 }, { start: 3, end: 7 }, { start: 8, end: 9 }],
    signed: true, differs: true, lanes: { gold: [found(0, 2, 'VES')], rules: [found(3, 7, 'VES')] },
  }

  it('says why a rule set a span, part by part', async () => {
    const why = [{ id: 1, name: 'four figures', takes: false, slots: [{ said: 'the word “at”', marked: false, words: 'at' }, { said: 'figures', marked: true, words: '0600' }], conditions: ['Not where “t” stands.'] }]
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules/1/finds': { total: 1, staves: [stave], next: null }, 'GET /rules/why': why })
    await userEvent.click(await screen.findByRole('button', { name: 'why' }))
    const told = await screen.findByRole('group', { name: 'why VES' })
    await waitFor(() => expect(told).toHaveTextContent('four figures marks itatthe word “at”0600figuresholds: Not where “t” stands.'))
    await userEvent.click(screen.getByRole('button', { name: 'hide why' }))
    expect(screen.queryByRole('group', { name: 'why VES' })).toBeNull()
  })

  it('opens what no rule finds', async () => {
    const { asked } = openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules/1/missed': { total: 1, staves: [stave], next: null } })
    await userEvent.click(await screen.findByRole('button', { name: 'missed by all rules 4' }))
    expect(await screen.findByText(/33\/1 · sentence 1/)).toBeInTheDocument()
    expect(asked.some(({ what }) => what === 'GET /rules/1/missed')).toBe(true)
    expect(screen.getByRole('button', { name: 'found by no other 1' })).toBeInTheDocument()
  })

  it('calls what a rule takes away so, and counts neither what it alone finds nor what all miss', async () => {
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules': [{ ...RULE, takes: true }], 'POST /rules/try': { ...TRIAL, takes: true } })
    expect(await screen.findByRole('heading', { name: /takes spans away/ })).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /missed by all rules/ })).toBeNull()
    await userEvent.keyboard('e')
    expect(await screen.findByText(/It takes away 3 spans in the first 40 texts of the project; of 2 spans in signed sentences 1 are not gold/)).toBeInTheDocument()
  })

  it('undoes what was done last, and says where something stays', async () => {
    const act = { id: 5, said: 'moving the rule “four figures”' }
    const { asked } = openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'GET /rules/acts/latest': { act }, 'POST /rules/acts/5/undo': { left: 'it has been changed since' } })
    await screen.findByLabelText('holds')
    await waitFor(() => expect(asked.some(({ what }) => what === 'GET /rules/acts/latest')).toBe(true))
    await screen.findByText('undo')
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(await screen.findByText('Not undone: moving the rule “four figures”; it has been changed since.')).toBeInTheDocument()
  })

  it('tries a rule on all texts in the background, with a stop', async () => {
    const job = { id: 8, kind: 'rule trial', title: '', state: 'running', done: 200, total: 900, unit: 'texts', message: '', created_at: '', started_at: null, finished_at: null }
    const told = { job, finds: 0, right: 0, judged: 0, takes: false, texts: 0, staves: [] }
    let now = told
    const { asked } = openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'POST /rules/trials': told, 'GET /rules/trials/8': () => now, 'POST /jobs/8/stop': () => {
      now = { ...told, job: { ...job, state: 'stopped' }, finds: 12, judged: 4, right: 3, texts: 400 }
      return now.job
    } })
    await screen.findByLabelText('holds')
    await userEvent.keyboard('e')
    await userEvent.click(await screen.findByRole('button', { name: 'try it on all texts' }))
    expect(await screen.findByText('tried on 200 of 900 texts')).toBeInTheDocument()
    expect(written(asked).find(({ what }) => what === 'POST /rules/trials')?.body).toMatchObject({ pattern: '\\d{4}', rule: 1 })
    await userEvent.click(screen.getByRole('button', { name: 'stop' }))
    expect(await screen.findByText(/It finds 12 spans in the first 400 texts; of 4 spans in signed sentences 3 are right\./)).toBeInTheDocument()
  })

  it('chooses words by keys to make a rule of them', async () => {
    const word = (start: number, end: number) => ({ start, end, sentence: 0, tag: '', lemma: '', shapes: ['small'], kinds: [] })
    const look = { words: [word(0, 2), word(3, 7)], lists: [], rules: [], phrases: [] }
    openPlace(<Rules />, 'rules/1', { ...ANSWERS, 'POST /rules/words': look })
    await screen.findByLabelText('holds')
    await userEvent.keyboard('w')
    await screen.findByText(/Choose words to make a rule of them/)
    act(() => (document.activeElement as HTMLElement).blur())
    await userEvent.keyboard('{ArrowRight}')
    expect(await screen.findByLabelText('at may be')).toBeInTheDocument()
    await userEvent.keyboard('{Shift>}{ArrowRight}{/Shift}')
    expect(await screen.findByLabelText('0600 may be')).toBeInTheDocument()
    await userEvent.keyboard('{ArrowLeft}')
    expect(screen.queryByLabelText('0600 may be')).toBeNull()
  })

  it('shows a rule as it is after an undo, and saves over nothing that came in between', async () => {
    let rule = { ...RULE, version: 2, pattern: 'changed' }
    const act = { id: 5, said: 'the change of the rule “four figures”' }
    const { asked } = openPlace(<Rules />, 'rules/1', {
      ...ANSWERS, 'GET /rules': () => [rule], 'GET /rules/acts/latest': { act }, 'PUT /rules/1': RULE,
      'POST /rules/acts/5/undo': () => {
        rule = { ...RULE, version: rule.version + 1, pattern: rule.version === 2 ? 'undone' : 'theirs' }
        return { left: '' }
      },
    })
    expect(await screen.findByText('changed', { selector: 'pre' })).toBeInTheDocument()
    await screen.findByText('undo')
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(await screen.findByText('undone', { selector: 'pre' })).toBeInTheDocument()
    await userEvent.keyboard('e')
    expect(await screen.findByLabelText('pattern')).toHaveValue('undone')
    fireEvent.change(screen.getByLabelText('pattern'), { target: { value: 'mine' } })
    // It becomes another one meanwhile: the version that was seen is sent, which the server refuses.
    screen.getByLabelText('pattern').blur()
    await userEvent.keyboard('{Control>}z{/Control}')
    await waitFor(() => expect(asked.filter(({ what }) => what === 'POST /rules/acts/5/undo')).toHaveLength(2))
    await waitFor(() => expect(asked.filter(({ what }) => what === 'GET /rules').length).toBeGreaterThanOrEqual(3))
    expect(screen.getByLabelText('pattern')).toHaveValue('mine')
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    await waitFor(() => expect(written(asked).find(({ what }) => what === 'PUT /rules/1')?.body).toMatchObject({ pattern: 'mine', version: 3 }))
  })
})
