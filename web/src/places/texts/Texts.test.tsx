import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { SentencePage, TextHead, TextPage, TextShown } from '../../api/schema'
import { ANNOTATOR, openPlace, Refusal, written } from '../../test/fake'
import { Texts } from './Texts'

const BODY = '🚢 Pellin is in. Nothing further.'
const HEAD: TextHead = { id: 1, title: '33/1', group: 'week-33', dated: '2026-08-17', split: 'train', opening: BODY, sentences: 2, signed: 1, spans: 1 }
const PAGE: TextPage = { texts: [HEAD], next: null, total: 1 }
const TEXT: TextShown = {
  id: 1, version: 1, title: '33/1', group: 'week-33', dated: '2026-08-17', split: 'train', body: BODY,
  sentences: 2, signed: 1, spans: 1, meta: { Desk: 'night log' }, source: 'remarks.csv', place: 'line 2', aside: [],
}
const SENTENCES: SentencePage = {
  sentences: [
    { id: 5, number: 0, start: 0, end: 15, state: 'signed', spans: 1 },
    { id: 6, number: 1, start: 16, end: 32, state: 'untouched', spans: 0 },
  ],
  next: null,
}
const ANSWERS = { 'GET /texts': PAGE, 'GET /texts/1': TEXT, 'GET /texts/1/sentences': SENTENCES }

describe('Texts', () => {
  it('shows a text by its sentences, cut by code points, each a way to the Desk', async () => {
    openPlace(<Texts />, 'texts/1', ANSWERS)
    const first = await screen.findByRole('link', { name: '🚢 Pellin is in.' })
    expect(first).toHaveAttribute('href', '/p/tessmar/desk/5')
    expect(screen.getByRole('link', { name: 'Nothing further.' })).toBeInTheDocument()
    expect(screen.getByRole('img', { name: 'signed' })).toBeInTheDocument()
    expect(screen.getByRole('complementary')).toHaveTextContent('1 of 2 sentences')
  })

  it('has further sentences come as one gets to them, and says when they do not', async () => {
    let fails = true
    const { asked } = openPlace(<Texts />, 'texts/1', {
      ...ANSWERS,
      'GET /texts/1/sentences': (query: unknown) => {
        if ((query as { after?: string }).after === undefined) return { sentences: SENTENCES.sentences.slice(0, 1), next: 0 }
        return fails ? new Refusal(503, { detail: 'The database is away.' }) : { ...SENTENCES, sentences: SENTENCES.sentences.slice(1) }
      },
    })
    expect(await screen.findByText(/The database is away/)).toBeInTheDocument()
    expect(screen.getByRole('link', { name: '🚢 Pellin is in.' })).toBeInTheDocument()
    fails = false
    await userEvent.click(screen.getByRole('button', { name: 'retry' }))
    expect(await screen.findByRole('link', { name: 'Nothing further.' })).toBeInTheDocument()
    expect(asked.findLast(({ what }) => what.endsWith('/sentences'))?.body).toEqual({ after: '0' })
  })

  it('shows the beginning of a sentence without end', async () => {
    const long = 'quay '.repeat(1000)
    openPlace(<Texts />, 'texts/1', {
      ...ANSWERS,
      'GET /texts/1': { ...TEXT, body: long, sentences: 1 },
      'GET /texts/1/sentences': { sentences: [{ id: 5, number: 0, start: 0, end: 4999, state: 'untouched', spans: 0 }], next: null },
    })
    const link = await screen.findByRole('link', { name: /^quay/ })
    expect(link.textContent).toHaveLength(2002)
    expect(link).toHaveTextContent(/quay …$/)
  })

  it('shows a text that the list has not come to yet', async () => {
    openPlace(<Texts />, 'texts/9', { ...ANSWERS, 'GET /texts/9': { ...TEXT, id: 9, title: '43/1' }, 'GET /texts/9/sentences': SENTENCES })
    expect(await screen.findByRole('heading', { level: 1 })).toHaveTextContent('43/1')
    expect(screen.getByRole('listbox', { name: 'texts' })).toHaveTextContent('33/1')
  })

  it('searches on the server', async () => {
    const { asked } = openPlace(<Texts />, 'texts/1', ANSWERS)
    await screen.findByRole('link', { name: 'Nothing further.' })
    await userEvent.type(screen.getByLabelText('search titles and bodies'), 'salt')
    await waitFor(() => expect(asked.at(-1)?.body).toEqual({ search: 'salt', split: '' }))
    await userEvent.selectOptions(screen.getByLabelText('show'), 'dev')
    await waitFor(() => expect(asked.at(-1)?.body).toEqual({ search: 'salt', split: 'dev' }))
  })

  it('pastes a text to the letter and keeps it when it is refused', async () => {
    let refuse = true
    const answer = () => (refuse ? new Refusal(409, { detail: 'This very text is already here as “33/1”.', field: 'body' }) : TEXT)
    const { asked } = openPlace(<Texts />, 'texts/1', { ...ANSWERS, 'POST /texts': answer })
    await userEvent.click(await screen.findByRole('button', { name: 'paste a new text' }))
    const window = await screen.findByRole('dialog')
    await userEvent.type(within(window).getByLabelText('title'), '33/2')
    await userEvent.type(within(window).getByLabelText('body'), '  two{Enter}lines ')
    await userEvent.click(within(window).getByRole('button', { name: 'add' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('already here')
    expect(within(window).getByLabelText('body')).toHaveValue('  two\nlines ')
    refuse = false
    await userEvent.click(within(window).getByRole('button', { name: 'add' }))
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    expect(written(asked).at(-1)?.body).toEqual({ title: '33/2', group: '', dated: null, split: 'none', body: '  two\nlines ' })
  })

  it('says what belongs here when there is nothing, and when nothing fits', async () => {
    openPlace(<Texts />, 'texts', { 'GET /texts': { ...PAGE, texts: [] } })
    expect(await screen.findByText(/Texts are what everything here is made from/)).toBeInTheDocument()
    await userEvent.type(screen.getByLabelText('search titles and bodies'), 'x')
    expect(await screen.findByText('No text fits this search.')).toBeInTheDocument()
  })

  it('keeps abbreviations, its own and those that the texts suggest', async () => {
    let kept = { own: ['approx'], suggested: ['hyd', 'bbl'], split_anew: 0 }
    const { asked } = openPlace(<Texts />, 'texts/1', {
      ...ANSWERS,
      'GET /texts/abbreviations': () => kept,
      'PUT /texts/abbreviations': () => (kept = { own: ['approx', 'hyd', 'n.b'], suggested: ['bbl'], split_anew: 2 }),
    })
    await userEvent.click(await screen.findByRole('button', { name: 'abbreviations' }))
    const window = await screen.findByRole('dialog')
    const field = await within(window).findByLabelText('abbreviations of this project')
    expect(field).toHaveValue('approx.')
    await userEvent.click(within(window).getByRole('button', { name: 'hyd.' }))
    expect(field).toHaveValue('approx.\nhyd.')
    expect(within(window).queryByRole('button', { name: 'hyd.' })).toBeNull()
    expect(within(window).getByRole('button', { name: 'bbl.' })).toBeInTheDocument()
    await userEvent.type(field, '{Enter}N.B.')
    await userEvent.click(within(window).getByRole('button', { name: 'save' }))
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    expect(written(asked).at(-1)?.body).toEqual({ words: ['approx.', 'hyd.', 'N.B.'] })
    expect(await screen.findByText('2 texts split again.')).toBeInTheDocument()
  })

  it('offers abbreviations to a lead alone', async () => {
    openPlace(<Texts />, 'texts/1', ANSWERS, ANNOTATOR)
    await screen.findByRole('button', { name: 'paste a new text' })
    expect(screen.queryByRole('button', { name: 'abbreviations' })).toBeNull()
  })

  describe('exporting', () => {
    const PREVIEW = { lines: ['Amber\tB-VES', 'Quay\tI-VES'], more: true }
    const LAYERS = [
      { id: 1, kind: 'gold', name: 'gold' },
      { id: 4, kind: 'annotator', name: 'Jo' },
    ]
    const EXPORTING = { ...ANSWERS, 'GET /corpus/preview': PREVIEW, 'GET /desk/layers': LAYERS }
    const link = () => screen.findByRole('link', { name: 'export' })

    it('shows how the file begins, and makes it as it was chosen', async () => {
      const { asked } = openPlace(<Texts />, 'texts/1', EXPORTING, ANNOTATOR)
      await screen.findByRole('link', { name: 'Nothing further.' })
      await userEvent.keyboard('x')
      expect(await screen.findByRole('region', { name: 'how the file begins' })).toHaveTextContent('Amber B-VES Quay I-VES …')
      expect(await link()).toHaveAttribute('href', '/api/projects/tessmar/corpus?format=jsonl')
      expect(screen.queryByRole('checkbox', { name: /tokens and labels/ })).toBeNull()
      await userEvent.selectOptions(screen.getByLabelText('format'), 'BILOU columns')
      await userEvent.selectOptions(screen.getByLabelText('split'), 'dev')
      await userEvent.selectOptions(screen.getByLabelText('whose annotation'), 'Jo')
      await userEvent.click(screen.getByText(/tokens and labels/))
      await userEvent.type(screen.getByLabelText('group'), ' week 33 ')
      await userEvent.type(screen.getByLabelText('folds'), '5')
      await userEvent.type(screen.getByLabelText('seed'), '7')
      const wish = { format: 'bilou', split: 'dev', group: 'week 33', bare: 'true', layer: '4', folds: '5', seed: '17' }
      await waitFor(() => expect(asked.at(-1)).toEqual({ what: 'GET /corpus/preview', body: { ...wish, unsigned: 'false' } }))
      expect(Object.fromEntries(new URL((await link()).getAttribute('href') ?? '', 'http://x').searchParams)).toEqual(wish)
    })

    it('makes nothing of what is wrong, and says when no text fits', async () => {
      openPlace(<Texts />, 'texts/1', { ...EXPORTING, 'GET /desk/layers': LAYERS.slice(0, 1), 'GET /corpus/preview': (({ group }: { group: string }) => (group ? { lines: [], more: false } : PREVIEW)) })
      await userEvent.click(await screen.findByRole('button', { name: 'export' }))
      await link()
      expect(screen.queryByLabelText('whose annotation')).toBeNull()
      await userEvent.type(screen.getByLabelText('folds'), '1')
      expect(await screen.findByText('a number from 2 to 100, or nothing')).toBeInTheDocument()
      expect(screen.queryByRole('link', { name: 'export' })).toBeNull()
      await userEvent.clear(screen.getByLabelText('folds'))
      await link()
      await userEvent.type(screen.getByLabelText('group'), 'x')
      expect(await screen.findByText(/No text fits/)).toBeInTheDocument()
      expect(screen.getAllByRole('button', { name: 'export', hidden: true }).at(-1)).toBeDisabled()
    })

    it('says why there is no preview', async () => {
      openPlace(<Texts />, 'texts/1', { ...EXPORTING, 'GET /corpus/preview': new Refusal(404, { title: 'Not found', status: 404, detail: 'There is no layer 4 in this project.' }) })
      await userEvent.click(await screen.findByRole('button', { name: 'export' }))
      expect(await screen.findByText('There is no layer 4 in this project.')).toBeInTheDocument()
    })
  })
})
