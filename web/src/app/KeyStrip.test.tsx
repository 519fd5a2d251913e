import { ChakraProvider } from '@chakra-ui/react'
import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'

import { type KeyBinding, useKeys } from '../parts/keys'
import { system } from '../theme/system'
import { AllKeys, KeyStrip } from './KeyStrip'

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
      <KeyStrip onHelp={() => setOpen(true)} />
      {open && <AllKeys onClose={() => setOpen(false)} />}
    </ChakraProvider>
  )
}

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
})
