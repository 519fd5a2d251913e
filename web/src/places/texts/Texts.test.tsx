import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { SentencePage, SplitsShown, TextHead, TextPage, TextShown } from '../../api/schema'
import { ANNOTATOR, type Asked, openPlace, Refusal, written } from '../../test/fake'
import { Texts } from './Texts'

const BODY = '🚢 Pellin is in. Nothing further.'
const HEAD: TextHead = { id: 1, title: '33/1', group: 'week-33', dated: '2026-08-17', split: 'train', opening: BODY, sentences: 2, signed: 1, spans: 1 }
const PAGE: TextPage = { texts: [HEAD], next: null }
const TEXT: TextShown = {
  id: 1, version: 1, title: '33/1', group: 'week-33', dated: '2026-08-17', split: 'train', body: BODY,
  sentences: 2, signed: 1, spans: 1, meta: { Desk: 'night log' }, source: 'remarks.csv', place: 'line 2', aside: [], aside_annotated: false,
}
const SENTENCES: SentencePage = {
  sentences: [
    { id: 5, number: 0, start: 0, end: 15, state: 'signed', spans: 1 },
    { id: 6, number: 1, start: 16, end: 32, state: 'untouched', spans: 0 },
  ],
  next: null,
}
const ANSWERS = { 'GET /texts/acts/latest': { act: null }, 'GET /texts': PAGE, 'GET /texts/count': { total: 1, found: 1 }, 'GET /texts/1': TEXT, 'GET /texts/1/sentences': SENTENCES }

async function more(act: string) {
  await userEvent.click(await screen.findByRole('button', { name: 'more' }))
  await userEvent.click(await screen.findByRole('menuitem', { name: act }))
}

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

  it('sets off what is quoted, and has it annotated where a lead asks', async () => {
    const body = 'Yes.\n> Is she in?\nAt noon.\n--\nVane'
    const mail: TextShown = { ...TEXT, body, aside: [{ start: 5, end: 17 }, { start: 27, end: 34 }] }
    const { asked } = openPlace(<Texts />, 'texts/1', {
      ...ANSWERS,
      'GET /texts/1': mail,
      'GET /texts/1/sentences': {
        sentences: [
          { id: 5, number: 0, start: 0, end: 4, state: 'untouched', spans: 0 },
          { id: 6, number: 1, start: 18, end: 26, state: 'untouched', spans: 0 },
        ],
        next: null,
      },
      'PUT /texts/1/aside': { ...mail, aside_annotated: true },
    })
    await waitFor(() => expect(screen.getAllByTitle(/not annotated/).map((one) => one.textContent)).toEqual(['> Is she in?', '--\nVane']))
    await userEvent.click(screen.getByRole('button', { name: 'annotate them too' }))
    await waitFor(() => expect(asked.find(({ what }) => what === 'PUT /texts/1/aside')?.body).toEqual({ annotated: true }))
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
    await waitFor(() => expect(asked).toContainEqual({ what: 'GET /texts', body: { search: 'salt' } }))
    expect(asked).toContainEqual({ what: 'GET /texts/count', body: { search: 'salt' } })
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
    openPlace(<Texts />, 'texts', { ...ANSWERS, 'GET /texts': { ...PAGE, texts: [] } })
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
    await more('abbreviations')
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
    await userEvent.click(await screen.findByRole('button', { name: 'more' }))
    expect(await screen.findByRole('menuitem', { name: 'splits' })).toBeInTheDocument()
    expect(screen.queryByRole('menuitem', { name: 'abbreviations' })).toBeNull()
  })

  describe('many at once', () => {
    const OTHERS: TextHead[] = [2, 3, 4].map((id) => ({ ...HEAD, id, title: `33/${id}` }))
    const MANY = { ...ANSWERS, 'GET /texts': { texts: [HEAD, ...OTHERS], next: null }, 'GET /texts/count': { total: 9, found: 7 } }
    const CHANGED = { id: 5, kind: 'change', texts: 2, at: '2026-08-17T10:00:00Z', undone: false }
    const FACETS = {
      'GET /texts/metadata': { names: ['Desk'] },
      'GET /texts/facets': ({ of }: { of: string }) => ({
        values: of === 'type' ? [{ value: 'VES', texts: 4 }] : of === 'group' ? [{ value: 'week-33', texts: 3 }, { value: '', texts: 2 }] : [{ value: `${of} one`, texts: 1 }],
        more: of === 'value',
      }),
    }
    const lastList = (asked: Asked[]) => asked.findLast(({ what }) => what === 'GET /texts')?.body

    it('filters by what texts have, with counts, and says what for', async () => {
      const { asked, router } = openPlace(<Texts />, 'texts/1', { ...MANY, ...FACETS })
      await screen.findByRole('link', { name: 'Nothing further.' })
      await userEvent.keyboard('f')
      const form = await screen.findByRole('group', { name: 'filter' })
      await within(form).findByRole('option', { name: 'VES vessel · 4' })
      await userEvent.selectOptions(within(form).getByLabelText('type in gold'), 'VES')
      await userEvent.type(await within(form).findByLabelText('VES is'), 'Pell')
      await userEvent.selectOptions(within(form).getByLabelText('group'), 'none · 2')
      await userEvent.selectOptions(within(form).getByLabelText('Desk'), 'meta:Desk one · 1')
      await userEvent.click(within(form).getByRole('button', { name: 'only those without a date' }))
      const wish = { type: 'VES', value: 'Pell', meta: 'Desk=meta:Desk one', lacks: 'dated' }
      await waitFor(() => expect(lastList(asked)).toEqual(wish))
      expect(router.state.location.search).toContain('lacks=group')
      expect(screen.getByText('VES “Pell” · Desk: meta:Desk one · no group · no date')).toBeInTheDocument()
      expect(screen.getByText('7 of 9 texts')).toBeInTheDocument()
      await userEvent.click(screen.getByRole('button', { name: 'clear' }))
      await waitFor(() => expect(lastList(asked)).toEqual({}))
    })

    it('keeps the filter in the address when another text is opened', async () => {
      const { router } = openPlace(<Texts />, 'texts/1?split=train', { ...MANY, 'GET /texts/2': { ...TEXT, id: 2 }, 'GET /texts/2/sentences': SENTENCES })
      await userEvent.click(await screen.findByText('33/2'))
      await waitFor(() => expect(router.state.location.pathname).toMatch(/texts\/2$/))
      expect(router.state.location.search).toBe('?split=train')
    })

    it('changes those that are marked, tells it, and undoes it', async () => {
      const { asked } = openPlace(<Texts />, 'texts/1', { ...MANY, 'POST /texts/changes': CHANGED, 'POST /texts/acts/5/undo': { texts: 1, left: 1 } })
      await screen.findByRole('link', { name: 'Nothing further.' })
      await userEvent.keyboard('m')
      const user = userEvent.setup()
      await user.keyboard('{Shift>}')
      await user.click(screen.getByTitle('mark 33/3'))
      await user.keyboard('{/Shift}')
      await user.click(screen.getByTitle('mark 33/2'))
      await userEvent.click(screen.getByRole('button', { name: 'change 2' }))
      const window = await screen.findByRole('dialog')
      await userEvent.selectOptions(within(window).getByLabelText('split'), 'dev')
      await userEvent.click(within(window).getByText('another date'))
      await userEvent.type(within(window).getByLabelText('name of metadata'), ' Desk ')
      await userEvent.click(within(window).getByRole('button', { name: 'save' }))
      await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
      const wish = { texts: [1, 3], split: 'dev', group: null, dated: null, undated: true, meta: { Desk: null } }
      expect(written(asked).at(-1)).toEqual({ what: 'POST /texts/changes', body: wish })
      expect(screen.queryByRole('button', { name: 'change 2' })).toBeNull()
      await userEvent.click(await screen.findByRole('button', { name: 'undo' }))
      expect(await screen.findByText(/Undone for 1 text; 1 text changed since/)).toBeInTheDocument()
    })

    it('removes all that the filter finds, as many as were seen', async () => {
      const { asked } = openPlace(<Texts />, 'texts/1?split=train', { ...MANY, 'POST /texts/removals': { ...CHANGED, kind: 'remove', texts: 7 } })
      await userEvent.click(await screen.findByText('mark all'))
      await userEvent.click(screen.getByRole('button', { name: 'delete 7' }))
      expect(await screen.findByText('7 texts moved to the bin.')).toBeInTheDocument()
      expect(written(asked).at(-1)?.body).toEqual({ filter: { split: 'train' }, expected: 7 })
    })

    it('undoes what was done last by a key', async () => {
      const answers = { ...MANY, 'GET /texts/acts/latest': { act: CHANGED }, 'POST /texts/acts/5/undo': { texts: 2, left: 0 } }
      openPlace(<Texts />, 'texts/1', answers)
      await screen.findByRole('link', { name: 'Nothing further.' })
      await waitFor(async () => {
        await userEvent.keyboard('{Control>}z{/Control}')
        expect(screen.getByText('Undone: 2 texts are as before.')).toBeInTheDocument()
      })
    })

    it('leaves marking to leads', async () => {
      openPlace(<Texts />, 'texts/1', MANY, ANNOTATOR)
      await screen.findByRole('link', { name: 'Nothing further.' })
      expect(screen.queryByTitle(/^mark /)).toBeNull()
      expect(screen.queryByRole('checkbox')).toBeNull()
    })

    it('puts back from the bin, and deletes for good after asking', async () => {
      const binned = [1, 2].map((id) => ({ id, title: `gone ${id}`, sentences: 3, signed: id, at: '2026-08-17T10:00:00Z', who: 'Ines' }))
      const { asked } = openPlace(<Texts />, 'texts/1', {
        ...MANY,
        'GET /texts/bin': { texts: binned, total: 2 },
        'POST /texts/bin/restore': { texts: 1, left: 1 },
        'POST /texts/bin/empty': { deleted: 1 },
      })
      await more('bin')
      const window = await screen.findByRole('dialog')
      await userEvent.click(await within(window).findByText('gone 2'))
      await userEvent.click(within(window).getByRole('button', { name: 'put 1 back' }))
      expect(await screen.findByText(/1 text put back; 1 text has come again/)).toBeInTheDocument()
      expect(written(asked).at(-1)).toEqual({ what: 'POST /texts/bin/restore', body: { texts: [2] } })
      await userEvent.click(await within(window).findByRole('button', { name: 'delete all for good' }))
      await userEvent.click(await screen.findByRole('button', { name: 'delete for good' }))
      expect(await screen.findByText('1 text deleted for good.')).toBeInTheDocument()
      expect(written(asked).at(-1)).toEqual({ what: 'POST /texts/bin/empty', body: {} })
    })

    it('drafts splits, says what leaks, and moves what was seen', async () => {
      const now: SplitsShown = {
        parts: [{ split: 'train', texts: 3, sentences: 9, spans: { VES: 3, PRT: 0 } }, { split: 'dev', texts: 1, sentences: 2, spans: { VES: 1, PRT: 0 } }, { split: 'none', texts: 0, sentences: 0, spans: {} }],
        moved: 0, digest: 'a', alike: [{ text: 1, title: '33/1', split: 'train', other: 2, other_title: '33/2', other_split: 'dev', share: 0.91 }], alike_count: 1,
        groups: ['week-33'], group_count: 1, names: [{ type: 'VES', elsewhere: 4, in_train: 3, shared: ['Ketta', 'Mira'] }, { type: 'PRT', elsewhere: 0, in_train: 0, shared: [] }],
        repeated: [{ words: 'All boats stay in the Spit.', texts: { train: 1, test: 7 } }], repeated_count: 3,
        searched: { holds: false, pairs: 1, job: null, state: null },
      }
      const draft = (sent: unknown) => ((sent as { dev: number }).dev > 20 ? new Refusal(422, { detail: 'The shares come to more than 100 percent.', field: 'train' }) : { ...now, moved: 2, digest: 'b', alike: [], alike_count: 0, groups: [], group_count: 0, repeated: [], repeated_count: 0, searched: { ...now.searched, holds: true } })
      const { asked } = openPlace(<Texts />, 'texts/1', {
        ...MANY, 'GET /texts/splits': now, 'POST /texts/splits/likeness': now.searched, 'POST /texts/splits/draft': draft, 'POST /texts/splits': CHANGED,
      })
      await more('splits')
      const window = await screen.findByRole('dialog')
      expect(await within(window).findByText('1 group has texts in two splits: week-33.')).toBeInTheDocument()
      expect(within(window).getByText(/1 pair of texts that are nearly the same lies in two splits/)).toBeInTheDocument()
      expect(within(window).getByText('3 sentences stand word for word in two splits, the first 1:')).toBeInTheDocument()
      expect(within(window).getByRole('link', { name: 'test' })).toHaveAttribute('href', '/p/tessmar/texts/7')
      await userEvent.click(within(window).getByRole('button', { name: '3 of 4 (75 %)' }))
      expect(within(window).getByRole('link', { name: 'Ketta' })).toHaveAttribute('href', '/p/tessmar/texts?type=VES&value=Ketta')
      expect(within(window).getByText('and 1 more')).toBeInTheDocument()
      await userEvent.click(within(window).getByRole('button', { name: 'look for them' }))
      await userEvent.click(within(window).getByRole('button', { name: 'split anew' }))
      await within(window).findByText('No group has texts in two splits.')
      const dev = within(window).getByLabelText('dev, %')
      await userEvent.type(dev, '0')
      expect(await within(window).findByText('The shares come to more than 100 percent.')).toBeInTheDocument()
      expect(within(window).getByRole('button', { name: /^move/ })).toBeDisabled()
      await userEvent.clear(dev)
      await userEvent.type(dev, '10')
      await userEvent.click(within(window).getByText('texts that have a split keep it'))
      await waitFor(() => expect(within(window).getByRole('button', { name: 'move 2 texts' })).toBeEnabled())
      await userEvent.click(within(window).getByRole('button', { name: 'move 2 texts' }))
      expect(await screen.findByText('2 texts changed.')).toBeInTheDocument()
      expect(written(asked)).toContainEqual({ what: 'POST /texts/splits', body: { train: 80, dev: 10, test: 10, seed: 1, keep: true, digest: 'b' } })
    })
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

    it('takes out just what the list shows, if so wished', async () => {
      openPlace(<Texts />, 'texts/1?search=salt&meta=Desk%3Dnorth&meta=by%3DJo', EXPORTING)
      await userEvent.click(await screen.findByRole('button', { name: 'export' }))
      await waitFor(async () => expect(new URL((await link()).getAttribute('href') ?? '', 'http://x').searchParams.getAll('meta')).toEqual(['Desk=north', 'by=Jo']))
      await userEvent.click(screen.getByText('only the 1 text that the list shows'))
      await waitFor(async () => expect(await link()).toHaveAttribute('href', '/api/projects/tessmar/corpus?format=jsonl'))
    })

    it('says why there is no preview', async () => {
      openPlace(<Texts />, 'texts/1', { ...EXPORTING, 'GET /corpus/preview': new Refusal(404, { title: 'Not found', status: 404, detail: 'There is no layer 4 in this project.' }) })
      await userEvent.click(await screen.findByRole('button', { name: 'export' }))
      expect(await screen.findByText('There is no layer 4 in this project.')).toBeInTheDocument()
    })
  })
})
