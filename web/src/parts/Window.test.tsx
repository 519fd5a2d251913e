import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import type { ReactElement } from 'react'
import { describe, expect, it, vi } from 'vitest'

import { system } from '../theme/system'
import { TextField } from './controls'
import { FormWindow, Sure } from './Window'

const draw = (element: ReactElement) =>
  render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={new QueryClient()}>{element}</QueryClientProvider>
    </ChakraProvider>,
  )

const form = (onClose: () => void) =>
  draw(
    <FormWindow title="A form" send="save" fields={[]} onClose={onClose} onSend={() => Promise.resolve()}>
      {() => <TextField label="name" value="" onChange={() => undefined} autoFocus />}
    </FormWindow>,
  )

describe('a window with a form', () => {
  it('closes with escape as long as nothing has been typed', async () => {
    const onClose = vi.fn()
    form(onClose)
    await screen.findByRole('dialog')
    await userEvent.keyboard('{Escape}')
    expect(onClose).toHaveBeenCalledTimes(1)
  })

  it('asks before a key throws away what was typed', async () => {
    const onClose = vi.fn()
    form(onClose)
    await userEvent.type(await screen.findByLabelText('name'), 'x')
    await userEvent.keyboard('{Escape}')
    expect(onClose).not.toHaveBeenCalled()
    await userEvent.click(screen.getByRole('button', { name: 'go on typing' }))
    expect(screen.queryByText('What you typed is not saved.')).toBeNull()
    expect(screen.getByLabelText('name')).toHaveFocus()
    await userEvent.keyboard('{Escape}')
    await userEvent.click(screen.getByRole('button', { name: 'discard it' }))
    expect(onClose).toHaveBeenCalledTimes(1)
  })

  it('lets who presses cancel go', async () => {
    const onClose = vi.fn()
    form(onClose)
    await userEvent.type(await screen.findByLabelText('name'), 'x')
    await userEvent.click(screen.getByRole('button', { name: 'cancel' }))
    expect(onClose).toHaveBeenCalledTimes(1)
  })
})

describe('a question before something is destroyed', () => {
  const sure = (onSure: () => Promise<unknown>) =>
    draw(
      <Sure title="Remove it?" act="remove" onClose={() => undefined} onSure={onSure}>
        It goes.
      </Sure>,
    )

  it('is answered once, however often one clicks', async () => {
    const onSure = vi.fn(() => new Promise(() => undefined))
    sure(onSure)
    const act = await screen.findByRole('button', { name: 'remove' })
    await userEvent.click(act)
    await waitFor(() => expect(act).toBeDisabled())
    await userEvent.click(act, { pointerEventsCheck: 0 })
    expect(onSure).toHaveBeenCalledTimes(1)
  })

  it('can be answered again when it failed, which it says', async () => {
    let fails = true
    sure(() => (fails ? Promise.reject(new Error('Not now.')) : Promise.resolve()))
    await userEvent.click(await screen.findByRole('button', { name: 'remove' }))
    expect(await screen.findByRole('alert')).toHaveTextContent('Not now.')
    fails = false
    expect(screen.getByRole('button', { name: 'remove' })).toBeEnabled()
  })
})
