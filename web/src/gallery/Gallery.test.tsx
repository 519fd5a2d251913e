import { ChakraProvider } from '@chakra-ui/react'
import { render, screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'

import { system } from '../theme/system'
import { Gallery } from './Gallery'
import { cut, SAMPLES } from './samples'

const open = () =>
  render(
    <ChakraProvider value={system}>
      <Gallery />
    </ChakraProvider>,
  )
const lanes = (name: string) =>
  [...screen.getByRole('region', { name }).querySelectorAll('[data-lane]')].map((lane) => [lane.getAttribute('data-lane'), [...lane.querySelectorAll('[data-span]')].map((bar) => bar.textContent).join(' ')])

describe('the gallery', () => {
  it('shows every way in which the stave is used', () => {
    open()
    expect(lanes('a lane per annotator')).toEqual([['jo', 'VES PRT'], ['wim', 'PER PRT']])
    expect(lanes('a stage, before and after')).toEqual([['before', 'VES −PER ±PER TIM'], ['after', 'VES ±ORG TIM +CGO']])
    expect(lanes('expected, found and missed')).toEqual([['gold', 'VES PRT'], ['found', 'VES ORG .43'], ['missed', 'PRT']])
    expect(lanes('a lane per record')).toEqual([['1', 'VES PRT TIM'], ['2', 'CGO ORG']])
    expect(lanes('two makers in one lane')).toEqual([['lists', 'VES VES PRT']])
    expect(screen.getByTitle('Johanna van der Meer')).toBeInTheDocument()
  })

  it('draws every sample whole, each sign once, in its language', () => {
    open()
    for (const { name, lang, words } of SAMPLES) {
      const stave = screen.getByRole('region', { name }).querySelector('[data-stave]') as HTMLElement
      expect(stave).toHaveAttribute('lang', lang)
      expect(within(stave).getByText(words)).toBeInTheDocument()
      const drawn = [...stave.querySelectorAll('[data-token]')].map((token) => token.textContent).join('')
      expect(drawn).toBe(words.replace(/\s/g, ''))
      expect(cut(words).every(({ start, end }) => start < end)).toBe(true)
    }
  })
})
