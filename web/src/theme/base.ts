import { defaultBaseConfig, mergeConfigs } from '@chakra-ui/react'

import { recipes, slotRecipes } from './recipes'

/** Steps of a quarter of a rem, by their numbers. */
const STEPS = [0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5, 5, 6, 7, 8, 9, 10, 11, 12, 14, 16, 20, 24, 28, 32, 36, 40, 44, 48, 52, 56, 60, 64, 72, 80, 96]

const rem = (size: number) => ({ value: `${size}rem` })
const valued = (values: Record<string, string>) => Object.fromEntries(Object.entries(values).map(([name, value]) => [name, { value }]))
const spacing = Object.fromEntries(STEPS.map((step) => [String(step), rem(step / 4)]))

/**
 * The component library without its own design: colours, sizes and looks are ours, and what is not used here need not be
 * loaded before anything is drawn. Names of steps and widths are the library's.
 */
export const base = mergeConfigs(defaultBaseConfig, {
  preflight: false,
  cssVarsPrefix: 'chakra',
  cssVarsRoot: ':where(html, .chakra-theme)',
  theme: {
    breakpoints: { sm: '480px', md: '768px', lg: '1024px', xl: '1280px', '2xl': '1536px' },
    keyframes: { spin: { '0%': { transform: 'rotate(0deg)' }, '100%': { transform: 'rotate(360deg)' } } },
    tokens: {
      spacing,
      sizes: {
        ...spacing,
        ...valued({ full: '100%', prose: '60ch', fit: 'fit-content', min: 'min-content', max: 'max-content' }),
        ...Object.fromEntries(Object.entries({ xs: 20, sm: 24, md: 28, lg: 32, xl: 36, '2xl': 42, '3xl': 48, '4xl': 56, '5xl': 64 }).map(([name, size]) => [name, rem(size)])),
      },
      radii: valued({ xs: '0.125rem', sm: '0.25rem', full: '9999px' }),
      fontWeights: valued({ normal: '400', medium: '500', bold: '700' }),
      lineHeights: valued({ short: '1.375' }),
      zIndex: valued({ popover: '1500', toast: '1700', tooltip: '1800', max: '2147483647' }),
    },
    recipes,
    slotRecipes,
  },
})
