import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'

import { openPlace } from '../test/fake'
import { Guide, pageOf } from './Guide'
import { PLACES } from './places'

describe('the guide', () => {
  it('has a page for every place', () => {
    for (const { path } of PLACES) expect(pageOf(`/p/tessmar/${path}/3`)).toBe(path)
    expect(pageOf('/p/tessmar/project')).toBe('projects')
    expect(pageOf('/projects')).toBe('projects')
    expect(pageOf('/account')).toBe('signing-in')
  })

  it('opens where one is, with its pictures, and leads to every other page', async () => {
    openPlace(<Guide onClose={() => undefined} />, 'lists/1', {})
    const window = within(await screen.findByRole('dialog', { name: 'Lists' }))
    expect(window.getByRole('img')).toHaveAttribute('src', expect.stringMatching(/lists.*\.png/) as string)
    const pages = within(window.getByRole('navigation')).getAllByRole('button')
    expect(pages.map((page) => page.textContent)).toEqual(['Signing in', 'Projects', 'Types', 'Texts', 'Desk', 'Lists', 'Rules', 'Tagger', 'Pipeline', 'Scores', 'Records'])
    await userEvent.click(window.getByRole('button', { name: 'Rules' }))
    expect(await screen.findByRole('dialog', { name: 'Rules' })).toBeInTheDocument()
    expect(window.getByRole('button', { name: 'Rules' })).toHaveAttribute('aria-current', 'page')
    for (const name of pages.map((page) => page.textContent)) {
      await userEvent.click(window.getByRole('button', { name }))
      // No picture and no link leads nowhere.
      for (const img of window.queryAllByRole('img')) expect(img.getAttribute('src')).not.toBe('')
    }
  })

  it('follows links between its pages', async () => {
    openPlace(<Guide onClose={() => undefined} />, 'project', {})
    const window = within(await screen.findByRole('dialog', { name: 'Projects' }))
    await userEvent.click(window.getByRole('link', { name: 'formats' }))
    expect(await screen.findByRole('dialog', { name: /formats/i })).toBeInTheDocument()
  })

  it('closes with escape', async () => {
    const onClose = vi.fn()
    openPlace(<Guide onClose={onClose} />, 'types', {})
    await screen.findByRole('dialog')
    await userEvent.keyboard('{Escape}')
    await waitFor(() => expect(onClose).toHaveBeenCalledOnce())
  })
})
