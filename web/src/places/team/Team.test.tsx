import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import type { ProjectListed, TeamShown } from '../../api/schema'
import { ANNOTATOR, LEAD, openPlace, projectOf, Refusal, written } from '../../test/fake'
import { AccountPage, browserOf } from './AccountPage'
import { AccountsPage } from './AccountsPage'
import { daysLeft, Projects } from './Projects'
import { ProjectPage } from './ProjectPage'

const listed = (more: Partial<ProjectListed>): ProjectListed => ({
  ...projectOf(LEAD), texts: 340, sentences: 1000, signed: 900, changed_at: '2026-08-01T08:00:00Z', ...more,
})
const DEMO = listed({})
const BINNED = listed({ slug: 'old', name: 'Old papers', removed_at: '2026-08-01T08:00:00Z' })
const member = { id: 1, login: 'ines', name: 'Ines', role: 'lead' as const, active: true, since: '2026-08-01T08:00:00Z' }
const TEAM: TeamShown = {
  members: [member, { ...member, id: 2, login: 'jo', name: 'Jo', role: 'annotator' }],
  invitations: [{ id: 7, role: 'reader', note: 'for Sol', made_by: 'Ines', created_at: '2026-08-01T08:00:00Z', expires_at: '2026-08-15T08:00:00Z' }],
}

describe('projects', () => {
  it('stand with their figures beside an invitation to begin one', async () => {
    openPlace(<Projects />, 'x', { 'GET /api/projects': [DEMO, BINNED] })
    const row = await screen.findByRole('row', { name: /Port of Tessmar/ })
    expect(row).toHaveTextContent('34090 %')
    expect(screen.getByRole('button', { name: 'add a project' })).toBeInTheDocument()
    expect(screen.getByRole('region', { name: 'In the bin' })).toHaveTextContent('Old papers')
  })

  it('are begun with a name, a language and the scheme of another', async () => {
    const { asked, router } = openPlace(<Projects />, 'x', {
      'GET /api/projects': [DEMO],
      'GET /api/languages': [{ code: 'en', name: 'English' }, { code: 'neutral', name: 'any other language' }],
      'POST /api/projects': { ...projectOf(LEAD), slug: 'letters', name: 'Letters' },
    })
    await screen.findByText('Port of Tessmar')
    await userEvent.keyboard('n')
    const window = await screen.findByRole('dialog')
    await userEvent.type(within(window).getByLabelText('name'), 'Letters')
    await userEvent.selectOptions(within(window).getByLabelText('scheme'), 'the types of Port of Tessmar')
    await userEvent.click(within(window).getByRole('button', { name: 'add' }))
    await waitFor(() => expect(router.state.location.pathname).toBe('/p/letters/texts'))
    expect(written(asked)[0]?.body).toEqual({ name: 'Letters', language: 'en', scheme_format: 'toml', scheme_of: 'tessmar' })
  })

  it('are begun in the first language also by whoever is quicker than the list of languages', async () => {
    let say: (languages: unknown) => void = () => undefined
    const { asked } = openPlace(<Projects />, 'x', {
      'GET /api/projects': [DEMO],
      'GET /api/languages': () => new Promise((resolve) => (say = resolve)),
      'POST /api/projects': { ...projectOf(LEAD), slug: 'letters', name: 'Letters' },
    })
    await userEvent.click(await screen.findByRole('button', { name: 'new project' }))
    const window = await screen.findByRole('dialog')
    await userEvent.type(within(window).getByLabelText('name'), 'Letters')
    await userEvent.click(within(window).getByRole('button', { name: 'add' }))
    expect(written(asked)).toEqual([])
    say([{ code: 'en', name: 'English' }])
    await waitFor(() => expect(written(asked)[0]?.body).toMatchObject({ name: 'Letters', language: 'en' }))
  })

  it('take a scheme from a file, and show what is wrong with it without losing anything', async () => {
    const refusal = new Refusal(422, { detail: 'Type 1: “name” is missing, or no text.' })
    const { asked } = openPlace(<Projects />, 'x', {
      'GET /api/projects': [DEMO],
      'GET /api/languages': [{ code: 'en', name: 'English' }],
      'POST /api/projects': refusal,
    })
    await userEvent.click(await screen.findByRole('button', { name: 'new project' }))
    const window = await screen.findByRole('dialog')
    await userEvent.type(within(window).getByLabelText('name'), 'Letters')
    await userEvent.selectOptions(within(window).getByLabelText('scheme'), 'from a file')
    await userEvent.upload(within(window).getByLabelText(/file with the types/), new File(['{"type": [{}]}'], 'types.JSON'))
    await userEvent.click(within(window).getByRole('button', { name: 'add' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('“name” is missing')
    expect(written(asked)[0]?.body).toMatchObject({ scheme_format: 'json', scheme_file: '{"type": [{}]}' })
    expect(within(window).getByLabelText('name')).toHaveValue('Letters')
  })

  it('are deleted for good by their name alone', async () => {
    const refusal = new Refusal(422, { field: 'name', detail: 'Type its name.' })
    const { asked } = openPlace(<Projects />, 'x', { 'GET /api/projects': [BINNED], 'POST /api/bin/old/delete': refusal })
    await userEvent.click(await screen.findByRole('button', { name: 'delete for good' }))
    const window = await screen.findByRole('dialog')
    expect(window).toHaveTextContent('340 texts with 900 signed sentences')
    await userEvent.type(within(window).getByLabelText("type the project's name"), 'old')
    await userEvent.click(within(window).getByRole('button', { name: 'delete for good' }))
    expect(await within(window).findByRole('alert')).toHaveTextContent('Type its name.')
    expect(written(asked)).toEqual([{ what: 'POST /api/bin/old/delete', body: { name: 'old' } }])
  })

  it('say how long they stay in the bin', () => {
    const now = new Date('2026-08-11T08:00:00Z').getTime()
    expect([daysLeft('2026-08-01T08:00:00Z', now), daysLeft('2026-07-01T08:00:00Z', now)]).toEqual([20, 0])
  })
})

describe('the people of a project', () => {
  it('are invited by a link that is shown once', async () => {
    const { asked } = openPlace(<ProjectPage />, 'project', {
      'GET /team': TEAM,
      'POST /invitations': { ...TEAM.invitations[0], token: 'secret' },
    })
    await userEvent.click(await screen.findByRole('button', { name: 'invite somebody' }))
    let window = await screen.findByRole('dialog')
    await userEvent.type(within(window).getByLabelText('for whom'), 'Wim')
    await userEvent.click(within(window).getByRole('button', { name: 'make the link' }))
    window = await screen.findByRole('dialog', { name: 'The invitation' })
    expect(within(window).getByLabelText('link')).toHaveValue(`${location.origin}/invitation#secret`)
    expect(written(asked)).toEqual([{ what: 'POST /invitations', body: { role: 'annotator', note: 'Wim' } }])
  })

  it('get other roles, and the last lead stays', async () => {
    const refusal = new Refusal(409, { detail: 'A project needs a lead.' })
    openPlace(<ProjectPage />, 'project', { 'GET /team': TEAM, 'PUT /team/1': refusal })
    await userEvent.selectOptions(await screen.findByLabelText('role of Ines'), 'reader')
    expect(await screen.findByRole('alert')).toHaveTextContent('A project needs a lead.')
    expect(screen.getByLabelText('role of Ines')).toHaveValue('lead')
  })

  it('are removed after one has read what stays', async () => {
    const { asked } = openPlace(<ProjectPage />, 'project', { 'GET /team': TEAM, 'DELETE /team/2': undefined, 'DELETE /invitations/7': undefined })
    await userEvent.click(await screen.findByRole('button', { name: 'remove' }))
    const window = await screen.findByRole('dialog')
    expect(window).toHaveTextContent('What they marked and signed stays')
    await userEvent.click(within(window).getByRole('button', { name: 'remove' }))
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    await userEvent.click(screen.getByRole('button', { name: 'withdraw' }))
    await waitFor(() => expect(written(asked).map(({ what }) => what)).toEqual(['DELETE /team/2', 'DELETE /invitations/7']))
  })

  it('are seen, but not changed, by those who do not lead', async () => {
    openPlace(<ProjectPage />, 'project', { 'GET /team': { ...TEAM, invitations: [] } }, ANNOTATOR)
    expect(await screen.findByRole('row', { name: /Jo \(you\)/ })).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: /invite|remove|rename|bin/ })).toBeNull()
    expect(screen.getByRole('button', { name: 'leave the project' })).toBeInTheDocument()
  })
})

describe('accounts', () => {
  it('change their password, each error at its field', async () => {
    const refusal = new Refusal(422, { field: 'old', detail: 'That is not your current password.' })
    openPlace(<AccountPage />, 'x', { 'GET /api/me/sessions': [], 'PUT /api/me/password': refusal })
    await userEvent.click(await screen.findByRole('button', { name: 'change password' }))
    const window = await screen.findByRole('dialog')
    await userEvent.type(within(window).getByLabelText('current password'), 'wrong')
    await userEvent.type(within(window).getByLabelText('new password'), 'a longer one')
    await userEvent.click(within(window).getByRole('button', { name: 'save' }))
    expect(await within(window).findByText('That is not your current password.')).toBeInTheDocument()
  })

  it('see their sessions and end others', async () => {
    const session = { id: 1, agent: 'Mozilla/5.0 (X11; Linux x86_64) Chrome/156.0 Safari/537.36', created_at: '2026-08-01T08:00:00Z', seen_at: '2026-08-01T08:00:00Z', ends_at: '2026-08-30T08:00:00Z' }
    const { asked } = openPlace(<AccountPage />, 'x', {
      'GET /api/me/sessions': [{ ...session, own: true }, { ...session, id: 2, own: false }],
      'DELETE /api/me/sessions/2': undefined,
      'DELETE /api/me/sessions': undefined,
    })
    expect(await screen.findAllByText('Chrome on Linux')).toHaveLength(2)
    await userEvent.click(screen.getByRole('button', { name: 'end' }))
    await userEvent.click(screen.getByRole('button', { name: 'sign out everywhere else' }))
    await waitFor(() => expect(written(asked).map(({ what }) => what)).toEqual(['DELETE /api/me/sessions/2', 'DELETE /api/me/sessions']))
  })

  it.each([
    ['Mozilla/5.0 (Windows NT 10.0) AppleWebKit Chrome/140 Safari/537.36 Edg/140', 'Edge on Windows'],
    ['Mozilla/5.0 (Macintosh; Intel Mac OS X 10_15) Version/17 Safari/605', 'Safari on Mac OS'],
    ['urdaten', 'urdaten'],
    ['', 'unknown'],
  ])('name a browser briefly: %s', (agent, words) => expect(browserOf({ agent })).toBe(words))

  it('are switched off by whoever looks after the server', async () => {
    const account = { ...ANNOTATOR, active: true }
    const { asked } = openPlace(<AccountsPage />, 'x', { 'GET /api/accounts': [{ ...LEAD, active: true }, account], 'PUT /api/accounts/2': { ...account, active: false } })
    await userEvent.click(await screen.findByRole('button', { name: 'switch off' }))
    const window = await screen.findByRole('dialog')
    await userEvent.click(within(window).getByRole('button', { name: 'switch off' }))
    await waitFor(() => expect(written(asked)).toEqual([{ what: 'PUT /api/accounts/2', body: { active: false } }]))
  })
})
