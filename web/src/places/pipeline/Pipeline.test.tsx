import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it } from 'vitest'

import type { PipelinePlan } from '../../api/schema'
import { ANNOTATOR, openPlace, Refusal, written } from '../../test/fake'
import { ANSWERS, BETTER, LOOK, NOW, OLD } from './fixture'
import { Pipeline } from './Pipeline'
import { drafts } from './useDraft'

const rows = async () => within(await screen.findByRole('table', { name: 'stages' })).getAllByRole('row')
const sent = (asked: Parameters<typeof written>[0]) => written(asked).filter(({ what }) => what.startsWith('PUT')).at(-1)?.body as { plan: PipelinePlan; seen: number }

beforeEach(() => drafts.clear())

describe('the pipeline', () => {
  it('shows what each stage does on dev, and the trace of a sentence', async () => {
    openPlace(<Pipeline />, 'pipeline', ANSWERS)
    expect(await screen.findByText('F1 66.7')).toBeVisible()
    const [, lists, rules] = await rows()
    expect(lists).toHaveTextContent(/lists\s*8\s*75 %\s*0\s*0\s*1\s*5\.0/)
    expect(rules).toHaveTextContent('brings nothing on dev')
    expect((await screen.findByText(/list vessels, entry “Haldis”/)).parentElement).toHaveTextContent('VES “Haldis” · list vessels')
    expect(screen.getByText('it took too long')).toBeVisible()
    expect(screen.getByText('held back', { selector: 'th' })).toBeVisible()
    expect(screen.getByRole('link', { name: 'export as a bundle' })).toHaveAttribute('href', '/api/projects/tessmar/pipeline/bundle')
  })

  it('turns a stage off by a key, says what that does before it is saved, and saves it', async () => {
    const off = { ...NOW, version: { ...NOW.version, number: 3, said: '“lists” is off' } }
    const { asked } = openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'POST /pipeline/look': ({ stages }: PipelinePlan) => (stages[0]?.on ? LOOK : BETTER), 'PUT /pipeline': off })
    await rows()
    await userEvent.keyboard('t')
    expect(await screen.findByText(/\+23\.3 against F1 66\.7 now · 3 sentences differ/)).toBeVisible()
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    expect(await screen.findByText('Version 3 is saved: “lists” is off.')).toBeVisible()
    expect(sent(asked)).toMatchObject({ seen: 2, plan: { stages: [{ name: 'lists', on: false }, { name: 'rules', on: true }] } })
    await waitFor(() => expect(screen.queryByRole('button', { name: 'save' })).toBeNull())
  })

  it('moves, adds, renames and deletes stages; every step can be undone and done again', async () => {
    openPlace(<Pipeline />, 'pipeline', ANSWERS)
    await rows()
    const order = async () => (await rows()).slice(1, -1).map((row) => within(row).getByRole('button').textContent)
    await userEvent.keyboard('{Shift>}{ArrowDown}{/Shift}')
    expect(await order()).toEqual(['rules', 'lists'])
    await userEvent.selectOptions(screen.getByLabelText('a stage of this kind'), 'types')
    await userEvent.click(screen.getByRole('button', { name: 'add a stage' }))
    expect(await order()).toEqual(['rules', 'lists', 'types'])
    await userEvent.type(screen.getByLabelText('name of the stage'), ' here')
    expect(await order()).toEqual(['rules', 'lists', 'types here'])
    // A name that is taken, or none at all, is typed and not used.
    await userEvent.clear(screen.getByLabelText('name of the stage'))
    expect(screen.getByRole('alert')).toHaveTextContent('A stage has a name.')
    await userEvent.type(screen.getByLabelText('name of the stage'), 'lists')
    expect(screen.getByRole('alert')).toHaveTextContent('There is another stage “lists”.')
    expect(await order()).toEqual(['rules', 'lists', 'list'])
    await userEvent.clear(screen.getByLabelText('name of the stage'))
    await userEvent.type(screen.getByLabelText('name of the stage'), 'types here')
    expect(screen.queryByRole('alert')).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'delete' }))
    expect(await order()).toEqual(['rules', 'lists'])
    ;(document.activeElement as HTMLElement).blur()
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(await order()).toEqual(['rules', 'lists', 'types here'])
    await userEvent.keyboard('{Control>}{Shift>}z{/Shift}{/Control}')
    expect(await order()).toEqual(['rules', 'lists'])
    await userEvent.click(screen.getByRole('button', { name: 'discard' }))
    expect(await order()).toEqual(['lists', 'rules'])
  })

  it('changes settings where they stand', async () => {
    const { asked } = openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'PUT /pipeline': NOW })
    await rows()
    await userEvent.click(screen.getByLabelText('ports'))
    await userEvent.click(screen.getByRole('button', { name: 'rules' }))
    await userEvent.selectOptions(screen.getByLabelText('those of lists'), 'binds')
    await userEvent.selectOptions(screen.getByLabelText('where it fails on a text'), 'stop')
    await userEvent.click(screen.getByRole('button', { name: 'what stands in the end' }))
    await userEvent.selectOptions(screen.getByLabelText('of spans that may not stand together'), 'likeliest')
    const least = screen.getByLabelText('least probability')
    await userEvent.clear(least)
    await userEvent.type(least, '7')
    expect(screen.getByRole('alert')).toHaveTextContent('A number from 0 to 1.')
    await userEvent.clear(least)
    await userEvent.type(least, '0.25')
    await userEvent.click(screen.getByRole('button', { name: 'who goes first: move lists up' }))
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    await waitFor(() =>
      expect(sent(asked).plan).toMatchObject({
        stages: [{ settings: { lists: ['ports'] } }, { towards: { lists: 'binds' }, after_fault: 'stop' }],
        policy: { kind: 'likeliest', least: 0.25, order: ['lists', 'rules'] },
      }),
    )
  })

  it('keeps what was changed when it is refused, or when somebody else saved first', async () => {
    let number = 2
    const answer = ({ seen }: { seen: number }) =>
      seen === number ? { ...NOW, version: { ...NOW.version, number: 4, said: '“lists” is off' } } : new Refusal(409, { detail: 'Somebody else changed the pipeline first.', number })
    const { asked } = openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'PUT /pipeline': (wish: { seen: number }) => answer(wish) })
    await rows()
    await userEvent.keyboard('t')
    number = 3
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    expect(await screen.findByText(/Somebody else saved version 3 of the pipeline meanwhile/)).toBeVisible()
    expect(screen.getByText('changed, not saved')).toBeVisible()
    await userEvent.click(screen.getByRole('button', { name: 'save mine after it' }))
    expect(await screen.findByText('Version 4 is saved: “lists” is off.')).toBeVisible()
    expect(sent(asked).seen).toBe(3)
  })

  it('says why a plan cannot be tried', async () => {
    const look = ({ stages }: PipelinePlan) => (stages.length === 3 ? new Refusal(422, { detail: 'The stage “condition” has no pattern.', field: 'pattern' }) : LOOK)
    openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'POST /pipeline/look': look })
    await rows()
    await userEvent.click(screen.getByRole('button', { name: 'add a stage' }))
    expect(await screen.findByText('The stage “condition” has no pattern.')).toBeVisible()
  })

  it('tries an earlier version, which is saved like any other change', async () => {
    const { asked } = openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'PUT /pipeline': NOW })
    await rows()
    const versions = await screen.findByRole('list', { name: 'versions' })
    expect(within(versions).getAllByRole('listitem').map((one) => one.textContent)).toEqual([
      expect.stringMatching(/^version 2 · now“rules” is new.*Ines/),
      expect.stringMatching(/^version 1“rules” is gone.*try it/),
      expect.stringMatching(/^as every project begins/),
    ])
    await userEvent.click(within(versions).getByRole('button', { name: 'try version 1' }))
    await userEvent.click(screen.getByRole('button', { name: 'save' }))
    await waitFor(() => expect(sent(asked)).toEqual({ plan: OLD, seen: 2 }))
  })

  it('lets an annotator look, and change nothing', async () => {
    openPlace(<Pipeline />, 'pipeline', { ...ANSWERS, 'GET /pipeline': { ...NOW, fault: 'The stage “lists” names the list “x”.' } }, ANNOTATOR)
    await rows()
    expect(screen.getByRole('alert')).toHaveTextContent('It cannot run as it is, so nothing is answered')
    expect(screen.queryByRole('button', { name: 'add a stage' })).toBeNull()
    expect(screen.queryByRole('link', { name: 'export as a bundle' })).toBeNull()
    expect(screen.getByRole('group', { name: 'settings of lists' })).toBeDisabled()
    await userEvent.keyboard('t')
    expect(screen.queryByText('changed, not saved')).toBeNull()
  })

  it('traces a sentence of the Desk as it stands in its text, until other words are wanted', async () => {
    const { asked, router } = openPlace(<Pipeline />, 'pipeline/7', ANSWERS)
    const traced = within(await screen.findByRole('region', { name: 'traced sentence' }))
    expect(await traced.findByText(/list vessels, entry “Haldis”/)).toBeVisible()
    expect(asked.find(({ what }) => what === 'POST /pipeline/trace')?.body).toMatchObject({ words: '', sentence: 7 })
    expect(traced.getByRole('link', { name: 'at the Desk' })).toHaveAttribute('href', '/p/tessmar/desk/7')
    await userEvent.click(traced.getByRole('button', { name: 'trace other words' }))
    expect(await screen.findByLabelText('trace a sentence')).toHaveValue('Haldis lies.')
    expect(router.state.location.pathname).toBe('/p/tessmar/pipeline')
  })
})
