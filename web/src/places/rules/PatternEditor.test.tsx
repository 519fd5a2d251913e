import { ChakraProvider } from '@chakra-ui/react'
import { render, screen } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'

import { system } from '../../theme/system'
import PatternEditor, { type Fault } from './PatternEditor'

const NAMES = { types: [], lists: [], fragments: [], tags: [], kinds: [] }

function shown(value: string, fault?: Fault) {
  return (
    <ChakraProvider value={system}>
      <PatternEditor label="pattern" value={value} onChange={vi.fn()} names={NAMES} fault={fault} />
    </ChakraProvider>
  )
}

describe('PatternEditor', () => {
  it('has what it is given, also when that changes', () => {
    const { rerender } = render(shown("'a' [capital]"))
    expect(screen.getByLabelText('pattern')).toHaveTextContent("'a' [capital]")
    rerender(shown("'b'"))
    expect(screen.getByLabelText('pattern')).toHaveTextContent("'b'")
  })

  it('marks a fault where it is, also behind signs of two units and at the end', () => {
    const fault = { message: 'no such word', start: 4, end: 7 }
    const { rerender, container } = render(shown("'🚢' xyz", fault))
    expect(screen.getByLabelText('pattern')).toHaveAttribute('aria-invalid', 'true')
    expect(container.querySelector('.cm-lintRange-error')).toHaveTextContent('xyz')
    rerender(shown("'🚢'", { ...fault, start: 3, end: 3 }))
    expect(container.querySelector('.cm-lintRange-error')).not.toBeNull()
    rerender(shown("'🚢'"))
    expect(screen.getByLabelText('pattern')).not.toHaveAttribute('aria-invalid')
    expect(container.querySelector('.cm-lintRange-error')).toBeNull()
  })
})
