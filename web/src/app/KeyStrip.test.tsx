import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { type KeyBinding, useKeys } from '../parts/keys'
import { STANDARD, useOwnKeys } from '../parts/ownKeys'
import { system } from '../theme/system'
import { server } from '../test/server'
import { AllKeys } from './AllKeys'
import { KeyStrip } from './KeyStrip'

function Page({ run }: { run: (count: number) => void }) {
  const [count, setCount] = useState(0)
  const [open, setOpen] = useState(false)
  const act = (label: string, quiet: boolean): KeyBinding => ({
    keys: [label.slice(0, 1)],
    caps: [label.slice(0, 1)],
    label,
    quiet,
    run: () => {
      run(count)
      setCount(count + 1)
    },
  })
  useKeys([act('mark', false), act('split', true), { keys: [], caps: ['letter'], label: 'any', run: () => undefined }])
  return (
    <ChakraProvider value={system}>
      <QueryClientProvider client={new QueryClient()}>
        <KeyStrip onGuide={() => undefined} onHelp={() => setOpen(true)} />
        {open && <AllKeys onClose={() => setOpen(false)} />}
      </QueryClientProvider>
    </ChakraProvider>
  )
}

const sent: unknown[] = []
let refuses = false
beforeEach(() => {
  useOwnKeys.setState(STANDARD, true)
  sent.length = 0
  refuses = false
  server.answer = async (request) => {
    sent.push(`${request.method} ${new URL(request.url).pathname}`, await request.json())
    return refuses ? Response.json({ detail: 'Not now.' }, { status: 503 }) : new Response(null, { status: 204 })
  }
})

async function openChanging(run = vi.fn()) {
  render(<Page run={run} />)
  await userEvent.click(screen.getByRole('button', { name: '? all keys' }))
  await userEvent.click(await screen.findByRole('button', { name: 'change keys' }))
  return run
}
const change = (label: string) => userEvent.click(screen.getByRole('button', { name: `change the key for ${label}` }))

describe('the strip of keys', () => {
  it('does on a click what the key does now', async () => {
    const run = vi.fn()
    render(<Page run={run} />)
    await userEvent.click(screen.getByRole('button', { name: 'm mark', hidden: true }))
    await userEvent.click(screen.getByRole('button', { name: 'm mark', hidden: true }))
    expect(run.mock.calls).toEqual([[0], [1]])
    expect(screen.queryByRole('button', { name: /letter/, hidden: true })).not.toBeInTheDocument()
  })

  it('has the others under all keys, which closes first', async () => {
    const run = vi.fn()
    render(<Page run={run} />)
    await userEvent.click(screen.getByRole('button', { name: '? all keys' }))
    await userEvent.click(await screen.findByRole('button', { name: 's split' }))
    expect(run.mock.calls).toEqual([[0]])
    expect(screen.queryByRole('dialog')).not.toBeInTheDocument()
  })

  it('lets everybody have another key, which then does it, and no other', async () => {
    const run = await openChanging()
    await change('split')
    await userEvent.keyboard('m')
    expect(screen.getByRole('alert')).toHaveTextContent('m is the key for “mark”. Press another.')
    await userEvent.keyboard('{Control>}j{/Control}')
    expect(sent).toEqual(['PUT /api/me/keys', { singles: 'plain', own: { split: 'ctrl+j' } }])
    expect(screen.getByRole('button', { name: 'ctrl j split' })).toBeInTheDocument()
    expect(screen.getByRole('dialog')).toBeInTheDocument()
    await userEvent.keyboard('{Escape}')
    await userEvent.keyboard('s')
    expect(run).not.toHaveBeenCalled()
    await userEvent.keyboard('{Control>}j{/Control}')
    expect(run).toHaveBeenCalledTimes(1)
  })

  it('breaks off with escape, without closing the window', async () => {
    await openChanging()
    await change('split')
    await userEvent.keyboard('{Escape}')
    expect(screen.queryByRole('status')).toBeNull()
    expect(screen.getByRole('dialog')).toBeInTheDocument()
    expect(sent).toEqual([])
  })

  it('can have single characters off, or with alt alone, and some keys off', async () => {
    const run = await openChanging()
    await userEvent.selectOptions(screen.getByLabelText('single characters'), 'are off')
    await userEvent.keyboard('{Escape}m')
    expect(run).not.toHaveBeenCalled()
    await userEvent.click(screen.getByRole('button', { name: '? all keys' }))
    await userEvent.click(await screen.findByRole('button', { name: 'change keys' }))
    await userEvent.selectOptions(screen.getByLabelText('single characters'), 'work with alt')
    await userEvent.click(screen.getByRole('button', { name: 'switch off the key for split' }))
    await userEvent.keyboard('{Escape}')
    await userEvent.keyboard('m{Alt>}m{/Alt}{Alt>}s{/Alt}')
    expect(run).toHaveBeenCalledTimes(1)
    expect(useOwnKeys.getState()).toMatchObject({ singles: 'alt', own: { split: '' } })
    await userEvent.click(screen.getByRole('button', { name: /all keys/ }))
    await userEvent.click(await screen.findByRole('button', { name: 'change keys' }))
    await userEvent.click(screen.getByRole('button', { name: 'standard keys' }))
    expect(useOwnKeys.getState()).toMatchObject(STANDARD)
  })

  it('has the keys that it had when they cannot be saved', async () => {
    refuses = true
    await openChanging()
    await change('split')
    await userEvent.keyboard('x')
    await vi.waitFor(() => expect(useOwnKeys.getState().own).toEqual({}))
    expect(sent).toHaveLength(2)
  })
})
