import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'

import { api, body } from '../api/client'
import { figuresQuery } from '../api/project'
import { openPlace, Refusal, written } from '../test/fake'
import { useAct } from './useAct'

const undo = () => body(api.POST('/api/projects/{project}/desk/undo', { params: { path: { project: 'tessmar' } }, body: {} }))

function Button({ onDone }: { onDone?: (answer: unknown) => void }) {
  const act = useAct(undo, { changes: 'desk', ...(onDone && { onDone }) })
  const twice = () => {
    act.run()
    act.run()
  }
  return (
    <button type="button" onClick={twice} disabled={act.busy}>
      undo
    </button>
  )
}

describe('an act', () => {
  it('is sent once, however often it is asked for, and again when it has been answered', async () => {
    const done: unknown[] = []
    const { asked } = openPlace(<Button onDone={(answer) => done.push(answer)} />, 'desk', { 'POST /desk/undo': { sentences: 0 } })
    await userEvent.click(screen.getByRole('button', { name: 'undo' }))
    await waitFor(() => expect(done).toEqual([{ sentences: 0 }]))
    expect(written(asked)).toHaveLength(1)
    await userEvent.click(await screen.findByRole('button', { name: 'undo' }))
    await waitFor(() => expect(written(asked)).toHaveLength(2))
  })

  it('is busy until it is answered', async () => {
    let answer: (value: unknown) => void = () => undefined
    openPlace(<Button />, 'desk', { 'POST /desk/undo': () => new Promise((done) => (answer = done)) })
    await userEvent.click(screen.getByRole('button', { name: 'undo' }))
    await waitFor(() => expect(screen.getByRole('button', { name: 'undo' })).toBeDisabled())
    answer({ sentences: 0 })
    await waitFor(() => expect(screen.getByRole('button', { name: 'undo' })).toBeEnabled())
  })

  it('tells a fault, may be tried again, and has what may have changed looked at in either case', async () => {
    const refusal = new Refusal(409, { type: 'about:blank', title: 'Conflict', status: 409, detail: 'There is nothing to undo.' })
    const { asked, client } = openPlace(<Button />, 'desk', { 'POST /desk/undo': refusal })
    client.setQueryData(figuresQuery('tessmar').queryKey, { types: 2 } as never)
    await userEvent.click(screen.getByRole('button', { name: 'undo' }))
    expect(await screen.findByRole('alert')).toHaveTextContent('There is nothing to undo.')
    await waitFor(() => expect(client.getQueryState(figuresQuery('tessmar').queryKey)?.isInvalidated).toBe(true))
    await userEvent.click(screen.getByRole('button', { name: 'undo' }))
    await waitFor(() => expect(written(asked)).toHaveLength(2))
  })
})
