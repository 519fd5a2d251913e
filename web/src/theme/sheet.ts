import { createSystem, type SystemStyleObject } from '@chakra-ui/react'
import { css } from '@emotion/react'
import { compile, serialize, stringify } from 'stylis'

import { base } from './base'
import { plain } from './plain'
import { config } from './system'

const everywhere: Record<string, SystemStyleObject> = {
  ':root': { colorScheme: 'light', accentColor: 'var(--chakra-colors-action)' },
  ':root.dark': { colorScheme: 'dark' },
  'html, body, #root': { height: '100%', overflow: 'hidden' },
  body: { bg: 'ground', color: 'ink', fontFamily: 'body', fontSize: 'ui', lineHeight: '1.45' },
  'input, select, textarea, button': { fontFamily: 'inherit' },
  '*:focus-visible': { outline: '2px solid', outlineColor: 'action', outlineOffset: '1px' },
  '*::placeholder': { color: 'second' },
  '*::selection': { bg: 'chosen' },
  ...plain,
  '*': {
    '--global-font-mono': 'fonts.mono',
    '--global-font-body': 'fonts.body',
    '--global-color-border': 'colors.hairline',
    _motionReduce: { transition: 'none !important', animation: 'none !important' },
  },
}

/** What is the same on every page: the order of layers, the reset, looks by class, and the tokens. CSS, made when the application is built. */
export function sheet(): string {
  const system = createSystem(base, config, { preflight: true, globalCss: everywhere })
  const styles = css(system._global as Parameters<typeof css>[0]).styles
  return system.layers.atRule + serialize(compile(styles), stringify)
}
