import { render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'

import { later, laterBehind, loadTheRest, type Trigger } from './later'
import { toaster } from './notes'

function draw(element: React.ReactNode) {
  toaster.remove()
  return render(element)
}

const Face = ({ name, ...trigger }: { name: string } & Trigger) => (
  <button type="button" {...trigger}>
    {name}
  </button>
)
const Menu = ({ name, opened }: { name: string; opened: boolean }) => <p>{`${name} ${opened ? 'opened' : 'closed'}`}</p>

describe('what comes later', () => {
  it('is told when it cannot be loaded, and closes; opened again it is tried again', async () => {
    let turn = 0
    const Window = later<{ onClose: () => void }>(() => (turn++ === 0 ? Promise.reject(new Error('the server is away')) : Promise.resolve(() => <p>here</p>)))
    const onClose = vi.fn()
    const { unmount } = draw(<Window onClose={onClose} />)
    await waitFor(() => expect(onClose).toHaveBeenCalledOnce())
    expect(toaster.getVisibleToasts()).toEqual([expect.objectContaining({ description: 'the server is away', type: 'error' })])
    unmount()
    draw(<Window onClose={onClose} />)
    expect(await screen.findByText('here')).toBeInTheDocument()
  })

  it('is there at once after the rest was loaded, though some of it could not be', async () => {
    later(() => Promise.reject(new Error('never')))
    const Window = later(() => Promise.resolve(() => <p>here</p>))
    await loadTheRest()
    draw(<Window />)
    expect(screen.getByText('here')).toBeInTheDocument()
  })
})

describe('a menu behind its face', () => {
  it('opens by the press that it was not there for', async () => {
    let come: (menu: typeof Menu) => void = () => undefined
    const Behind = laterBehind<{ name: string }>(() => new Promise((done) => (come = done)), Face)
    draw(<Behind name="Ines" />)
    await userEvent.click(screen.getByRole('button', { name: 'Ines', expanded: false }))
    expect(screen.getByRole('button', { name: 'Ines' })).toBeInTheDocument()
    come(Menu)
    expect(await screen.findByText('Ines opened')).toBeInTheDocument()
  })

  it('is not replaced before it is pressed: by pointing at it, when it has come, or when the page is drawn anew', async () => {
    const load = vi.fn(() => Promise.resolve(Menu))
    const Behind = laterBehind<{ name: string }>(load, Face)
    const { rerender } = draw(<Behind name="Ines" />)
    const face = screen.getByRole('button', { name: 'Ines' })
    await userEvent.hover(face)
    await waitFor(() => expect(load).toHaveBeenCalledOnce())
    await loadTheRest()
    rerender(<Behind name="Jo" />)
    expect(screen.getByRole('button', { name: 'Jo' })).toBe(face)
    await userEvent.click(face)
    expect(screen.getByText('Jo opened')).toBeInTheDocument()
    expect(load).toHaveBeenCalledOnce()
  })

  it('may be pressed again when neither pointing nor pressing has loaded it', async () => {
    let turn = 0
    const Behind = laterBehind<{ name: string }>(() => (turn++ < 2 ? Promise.reject(new Error('the server is away')) : Promise.resolve(Menu)), Face)
    draw(<Behind name="Ines" />)
    await userEvent.click(screen.getByRole('button', { name: 'Ines' }))
    await waitFor(() => expect(toaster.getVisibleToasts()).toEqual([expect.objectContaining({ description: 'the server is away' })]))
    await userEvent.click(screen.getByRole('button', { name: 'Ines' }))
    expect(await screen.findByText('Ines opened')).toBeInTheDocument()
  })
})
