import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, it } from 'vitest'

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
