import { describe, expect, it } from 'vitest'

import { sheet } from './sheet'
import { system } from './system'

describe('the sheet', () => {
  const css = sheet()

  it('puts its layers in order before anything stands in one', () => {
    expect(css).toMatch(/^@layer reset, ?base, ?tokens, ?recipes;/)
  })

  it('has every token that components name', () => {
    const values = new Set(css.match(/--chakra-colors-[\w-]+(?=:)/g))
    const names = [...(system.tokens.categoryMap.get('colors')?.keys() ?? [])].filter((name) => !name.startsWith('colorPalette'))
    expect(names.length).toBeGreaterThan(40)
    const variable = (name: string) => String(system.token.var(`colors.${name}`)).slice('var('.length, -1)
    expect(names.map(variable).filter((name) => !values.has(name))).toEqual([])
  })

  it('has looks by class, light and dark colours, and leaves nothing to be worked out in the browser', () => {
    expect(css).toMatch(/\.stave \.system\s*\{/)
    expect(css).toMatch(/\.dark[^{]*\{[^}]*--chakra-colors-ground:#151B1C/)
    expect(system._global).toEqual([])
  })
})
