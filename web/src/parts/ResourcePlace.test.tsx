import { infiniteQueryOptions, queryOptions, useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import { api, body } from '../api/client'
import type { ListShown, TextPage } from '../api/schema'
import { useIsLead } from '../api/project'
import { ANNOTATOR, type Answers, openPlace, Refusal, written } from '../test/fake'
import { TextField } from './controls'
import { ResourceActs, ResourcePlace } from './ResourcePlace'
import { RowList } from './RowList'
import { usePages } from './usePages'
import { ALL_OFFERS, useResource } from './useResource'
import { FormWindow } from './Window'

const OPTIONS: ListShown['options'] = {
  case: 'capital', exact_below: 0, accents: true, hyphens: false, endings: false, slips: false, shortest: 0, near: [], within: 5, not_after: [], not_before: [],
}
const row = (id: number, name: string): ListShown => ({ id, name, type: 'VES', on: true, options: OPTIONS, entries: 1, finds: 0, right: 0, judged: 0, version: 1 })
const ROWS = [row(1, 'Quays'), row(2, 'Ships'), row(3, 'Tugs')]

const params = { path: { project: 'tessmar' } }
const thingsQuery = queryOptions({ queryKey: ['things'], queryFn: () => body(api.GET('/api/projects/{project}/lists', { params })) })

/** A place with nothing of its own: all it shows is the scaffold's. */
function Things() {
  const query = useQuery(thingsQuery)
  const things = useResource<ListShown, ListShown[]>({ place: 'things', one: 'thing', query, queryKey: thingsQuery.queryKey, rows: query.data, offers: useIsLead() ? ALL_OFFERS : [] })
  const send = async () => things.saved(await body(api.POST('/api/projects/{project}/lists', { params, body: { name: 'x', type: 'VES', on: true } })))
  return (
    <ResourcePlace
      resource={things}
      heading="Things"
      height={20}
      label="things"
      row={(thing) => thing.name}
      empty="A thing is what this place is about."
      form={(thing) => (
        <FormWindow title={thing ? `Edit ${thing.name}` : 'New thing'} send="save" fields={[]} onClose={things.close} onSend={send}>
          {() => <TextField label="name" value="x" onChange={() => undefined} autoFocus />}
        </FormWindow>
      )}
      onDelete={(thing) => api.DELETE('/api/projects/{project}/lists/{list_id}', { params: { path: { project: 'tessmar', list_id: thing.id } } })}
      loss={(thing) => ({ name: thing.name, says: 'It is gone then.' })}
    >
      {(thing) => (
        <h1>
          {thing.name} <ResourceActs resource={things} />
        </h1>
      )}
    </ResourcePlace>
  )
}

const open = (path: string, answers: Answers, me?: typeof ANNOTATOR) => openPlace(<Things />, path, answers, me)
const main = () => within(screen.getByRole('main'))
const names = () => screen.getAllByRole('option', { hidden: true }).map((option) => option.textContent)

describe('a place of things in a list', () => {
  it('opens the first, another by its address, and steps by arrows', async () => {
    const { router } = open('things', { 'GET /lists': ROWS })
    expect(await screen.findByRole('heading', { name: /Quays/ })).toBeInTheDocument()
    await userEvent.keyboard('{ArrowDown}')
    expect(await screen.findByRole('heading', { name: /Ships/ })).toBeInTheDocument()
    expect(router.state.location.pathname).toBe('/p/tessmar/things/2')
  })

  it('says what belongs there while there is none, and offers the act that fills it', async () => {
    open('things', { 'GET /lists': [] })
    expect(await screen.findByText('A thing is what this place is about.')).toBeInTheDocument()
    await userEvent.click(main().getByRole('button', { name: 'new thing' }))
    expect(await screen.findByRole('dialog', { name: 'New thing' })).toBeInTheDocument()
  })

  it('says when it could not be read, and reads it again', async () => {
    let down = true
    open('things', { 'GET /lists': () => (down ? new Refusal(503, { detail: 'The database is away.' }) : ROWS) })
    expect(await screen.findByRole('alert')).toHaveTextContent('The database is away.')
    down = false
    await userEvent.click(screen.getByRole('button', { name: 'retry' }))
    expect(await screen.findByRole('heading', { name: /Quays/ })).toBeInTheDocument()
  })

  it('says when one is not there, and shows no other in its place', async () => {
    open('things/99', { 'GET /lists': ROWS })
    expect(await screen.findByRole('alert')).toHaveTextContent('There is no thing 99 here.')
    expect(screen.queryByRole('heading', { name: /Quays/ })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'open the first one' }))
    expect(await screen.findByRole('heading', { name: /Quays/ })).toBeInTheDocument()
  })

  it('goes on showing what it has while it cannot be read again, and says so', async () => {
    let down = false
    const { client } = open('things', { 'GET /lists': () => (down ? new Refusal(503, { detail: 'The database is away.' }) : ROWS) })
    await screen.findByRole('heading', { name: /Quays/ })
    down = true
    await client.invalidateQueries({ queryKey: thingsQuery.queryKey })
    expect(await screen.findByText(/This may be out of date/)).toHaveTextContent('The database is away.')
    expect(screen.getByRole('heading', { name: /Quays/ })).toBeInTheDocument()
  })

  it('shows a new one as soon as the server has answered, without asking for the list again', async () => {
    const { asked, router } = open('things', { 'GET /lists': ROWS, 'POST /lists': row(4, 'Buoys') })
    await screen.findByRole('heading', { name: /Quays/ })
    await userEvent.keyboard('n')
    await userEvent.click(await screen.findByRole('button', { name: 'save' }))
    expect(await screen.findByRole('heading', { name: /Buoys/ })).toBeInTheDocument()
    expect(names()).toEqual(['Quays', 'Ships', 'Tugs', 'Buoys'])
    expect(router.state.location.pathname).toBe('/p/tessmar/things/4')
    expect(asked.filter(({ what }) => what === 'GET /lists')).toHaveLength(1)
  })

  it.each([
    ['things/2', ['Quays', 'Tugs'], 'Tugs'],
    ['things/3', ['Quays', 'Ships'], 'Ships'],
  ])('deletes %s once, however often one clicks, and opens its neighbour', async (path, left, next) => {
    const { asked } = open(path, { 'GET /lists': ROWS, 'DELETE /lists/2': undefined, 'DELETE /lists/3': undefined })
    await screen.findAllByRole('option')
    await userEvent.keyboard('{Delete}')
    const act = within(await screen.findByRole('dialog')).getByRole('button', { name: 'delete' })
    await userEvent.dblClick(act)
    expect(await screen.findByRole('heading', { name: new RegExp(next) })).toBeInTheDocument()
    expect(names()).toEqual(left)
    expect(written(asked).map(({ what }) => what)).toEqual([`DELETE /${path.replace('things', 'lists')}`])
  })

  it('leaves the window open when it cannot be deleted, and says why', async () => {
    open('things/2', { 'GET /lists': ROWS, 'DELETE /lists/2': new Refusal(409, { detail: 'A rule uses it.' }) })
    await userEvent.click(await screen.findByRole('button', { name: 'delete' }))
    const window = await screen.findByRole('dialog')
    await userEvent.click(within(window).getByRole('button', { name: 'delete' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('A rule uses it.')
    expect(names()).toHaveLength(3)
  })

  it('offers no act to whoever may only read', async () => {
    open('things/2', { 'GET /lists': ROWS }, ANNOTATOR)
    await screen.findByRole('heading', { name: /Ships/ })
    expect(main().queryByRole('button')).toBeNull()
    expect(screen.queryByRole('button', { name: 'new thing' })).toBeNull()
    await userEvent.keyboard('n{Delete}')
    expect(screen.queryByRole('dialog')).toBeNull()
  })
})

const pagesQuery = infiniteQueryOptions({
  queryKey: ['pages'],
  queryFn: ({ pageParam }) => body(api.GET('/api/projects/{project}/texts', { params: { ...params, query: pageParam === null ? {} : { after: pageParam } } })),
  initialPageParam: null as number | null,
  getNextPageParam: (page) => page.next,
})

const rowsOf = (page: TextPage) => page.texts

function Paged() {
  const query = useInfiniteQuery(pagesQuery)
  const { rows, rest } = usePages(query, rowsOf)
  return (
    <RowList rows={rows ?? []} keyOf={({ id }) => id} chosen={null} onChoose={() => undefined} height={20} label="texts" rest={rest}>
      {(text) => text.title}
    </RowList>
  )
}

describe('a list in pages', () => {
  it('stops at a page that does not come, says why, and goes on when asked to', async () => {
    const head = (id: number) => ({ id, title: `Text ${id}`, opening: '', group: '', dated: null, split: 'train', sentences: 1, signed: 0, spans: 0 })
    let down = true
    const { asked } = openPlace(<Paged />, 'texts', {
      'GET /texts': (query: { after?: string }) => {
        if (query.after === undefined) return { total: 2, next: 1, texts: [head(1)] }
        return down ? new Refusal(503, { detail: 'The database is away.' }) : { total: 2, next: null, texts: [head(2)] }
      },
    })
    expect(await screen.findByRole('alert')).toHaveTextContent('The database is away.')
    expect(names()).toEqual(['Text 1'])
    const before = asked.length
    // It is not asked again and again.
    await new Promise((done) => setTimeout(done, 60))
    expect(asked).toHaveLength(before)
    down = false
    await userEvent.click(screen.getByRole('button', { name: 'retry' }))
    await waitFor(() => expect(names()).toEqual(['Text 1', 'Text 2']))
  })
})
