import { ChakraProvider } from '@chakra-ui/react'
import { render, screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'

import { system } from '../theme/system'
import { Between, partsOf, WithAside } from './aside'

describe('what stands aside', () => {
  it('parts words by code points of the body', () => {
    expect(partsOf('🚢ab🚢c', [{ start: 1, end: 3 }])).toEqual([
      { words: '🚢', aside: false },
      { words: 'ab', aside: true },
      { words: '🚢c', aside: false },
    ])
    // The words begin within the first of them, and end within the last.
    expect(partsOf('abcdef', [{ start: 5, end: 12 }, { start: 14, end: 30 }], 10)).toEqual([
      { words: 'ab', aside: true },
      { words: 'cd', aside: false },
      { words: 'ef', aside: true },
    ])
    expect(partsOf('', [])).toEqual([])
    expect(partsOf('abc', [])).toEqual([{ words: 'abc', aside: false }])
  })

  it('is set off, and nothing is drawn where nothing is', () => {
    const { container } = render(
      <ChakraProvider value={system}>
        <WithAside parts={partsOf('Yes. > No?', [{ start: 5, end: 10 }])} />
        <Between words="" />
      </ChakraProvider>,
    )
    expect(container).toHaveTextContent('Yes. > No?')
    expect(screen.getByTitle('quoted, or a signature')).toHaveTextContent('> No?')
    expect(screen.queryByTitle(/not annotated/)).toBeNull()
  })
})
