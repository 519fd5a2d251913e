import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { expect, it, vi } from 'vitest'

import type { StavePage } from '../api/schema'
import { openPlace } from '../test/fake'
import { StaveList } from './StaveList'

function page(count: number, total = count): StavePage {
  const stave = (id: number): StavePage['staves'][number] => ({
    sentence_id: id, text_id: 1, title: '33/1', number: id, start: 0, end: 2, words: 'In', tokens: [{ start: 0, end: 2 }],
    signed: true, lanes: { gold: [] }, differs: false,
  })
  return { total, staves: Array.from({ length: count }, (_, i) => stave(i + 1)) }
}

const list = (shown: StavePage) => openPlace(<StaveList page={shown} lanes={[['gold', 'Gold']]} hues={new Map()} empty="none" />, 'rules/1', {})
const drawn = () => screen.queryAllByRole('link', { name: 'at the Desk' }).length

it('draws a long list in steps', async () => {
  list(page(90, 700))
  expect(drawn()).toBe(40)
  await userEvent.click(screen.getByRole('button', { name: '50 sentences more' }))
  expect(drawn()).toBe(80)
  await userEvent.click(screen.getByRole('button', { name: '10 sentences more' }))
  expect(drawn()).toBe(90)
  expect(screen.getByText('The first 90 of 700 sentences.')).toBeInTheDocument()
})

it('draws a short list at once, and says when there is none', () => {
  list(page(3))
  expect(drawn()).toBe(3)
  expect(screen.queryByRole('button', { name: /more/ })).toBeNull()
  list(page(0))
  expect(screen.getByText('none')).toBeInTheDocument()
})

it('asks for the next page before it has drawn the last of this one, and begins anew with another list', async () => {
  const rest = { more: vi.fn(), earlier: vi.fn(), fault: null as unknown, retry: vi.fn() }
  const Paged = () => {
    const [shown, setShown] = useState(page(60, 100))
    return (
      <>
        <button type="button" onClick={() => setShown(page(100))}>arrive</button>
        <button type="button" onClick={() => setShown({ total: 50, staves: page(51).staves.slice(1) })}>other</button>
        <StaveList page={shown} lanes={[['gold', 'Gold']]} hues={new Map()} empty="none" rest={rest} />
      </>
    )
  }
  openPlace(<Paged />, 'rules/1', {})
  expect(rest.more).not.toHaveBeenCalled()
  await userEvent.click(screen.getByRole('button', { name: '60 sentences more' }))
  expect(rest.more).toHaveBeenCalledOnce()
  expect(drawn()).toBe(60)
  await userEvent.click(screen.getByRole('button', { name: 'arrive' }))
  expect(drawn()).toBe(80)
  await userEvent.click(screen.getByRole('button', { name: '20 sentences more' }))
  expect(drawn()).toBe(100)
  expect(screen.queryByRole('button', { name: /more/ })).toBeNull()
  await userEvent.click(screen.getByRole('button', { name: 'other' }))
  expect(drawn()).toBe(40)
})

it('says why the next page did not come, and asks again only when told to', async () => {
  const rest = { more: vi.fn(), earlier: vi.fn(), fault: new Error('the server is away'), retry: vi.fn() }
  openPlace(<StaveList page={page(30, 100)} lanes={[['gold', 'Gold']]} hues={new Map()} empty="none" rest={rest} />, 'rules/1', {})
  expect(screen.getByRole('alert')).toHaveTextContent('the server is away')
  expect(screen.queryByRole('button', { name: /more/ })).toBeNull()
  await userEvent.click(screen.getByRole('button', { name: 'retry' }))
  expect(rest.retry).toHaveBeenCalledOnce()
  expect(rest.more).not.toHaveBeenCalled()
})
