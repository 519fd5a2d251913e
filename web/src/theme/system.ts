import { createSystem, defineConfig, type SystemContext } from '@chakra-ui/react'

import { base } from './base'

/**
 * The one place where colours, sizes and typefaces have values. Components name tokens.
 *
 * Type hues: 24 steps of 15 degrees at one lightness, so that no type outshines another.
 */
export const HUES = 24

const hue = Object.fromEntries(
  Array.from({ length: HUES }, (_, i) => [
    i,
    { value: { base: `oklch(0.47 0.115 ${i * 15})`, _dark: `oklch(0.78 0.105 ${i * 15})` } },
  ]),
)

const pair = (base: string, dark: string) => ({ value: { base, _dark: dark } })

export const config = defineConfig({
  theme: {
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        heading: { value: "'Literata Variable', serif" },
        text: { value: "'Literata Variable', serif" },
        mono: { value: "'Atkinson Hyperlegible Mono', monospace" },
      },
      fontSizes: {
        tiny: { value: '11px' },
        small: { value: '12px' },
        ui: { value: '13px' },
        context: { value: '15px' },
        stave: { value: '19px' },
        head: { value: '20px' },
        figure: { value: '24px' },
      },
      spacing: { laneLabel: { value: '72px' }, textLine: { value: '34px' } },
      lineHeights: { lane: { value: '19px' }, textLine: { value: '34px' } },
      sizes: {
        bar: { value: '54px' },
        strip: { value: '30px' },
        left: { value: '268px' },
        right: { value: '262px' },
        wide: { value: '380px' },
        lane: { value: '19px' },
        laneLabel: { value: '72px' },
        textLine: { value: '34px' },
        // With its own edge and the line below, a selection is as high as a text line.
        marked: { value: '30px' },
        row: { value: '27px' },
        dialog: { value: '560px' },
        signIn: { value: '340px' },
      },
    },
    semanticTokens: {
      colors: {
        ground: pair('#EEF1F0', '#151B1C'),
        paper: pair('#FBFCFB', '#1B2324'),
        raised: pair('#FFFFFF', '#232D2E'),
        chosen: pair('#E2EAE8', '#2A3738'),
        ink: pair('#17211F', '#E6ECEA'),
        second: pair('#53625F', '#A9B6B3'),
        // Large or decorative text only.
        third: pair('#62706C', '#8C9996'),
        hairline: pair('#D3DBD8', '#354143'),
        // Around what one types in or ticks: it has to be found.
        edge: pair('#7B8986', '#7F8E8B'),
        bar: pair('#1E2A2C', '#0D1213'),
        // A tab of the bar under the pointer.
        barHover: pair('#34464A', '#263236'),
        // Over the page while a window stands on it.
        veil: pair('#0D121366', '#0D1213B3'),
        onBar: pair('#F3F6F5', '#E6ECEA'),
        onBarSecond: pair('#A9B8B6', '#93A19F'),
        gold: pair('#8A6508', '#D9AE3E'),
        goldMark: pair('#A67B0E', '#D9AE3E'),
        goldGround: pair('#FBF3D9', '#362E16'),
        action: pair('#0E6A73', '#6FC3CC'),
        onAction: pair('#FFFFFF', '#0D1213'),
        bad: pair('#B3262E', '#F08A8A'),
        // Lies over other grounds, so it lets them through.
        badGround: pair('#B3262E20', '#F08A8A2E'),
        good: pair('#1F7A4D', '#7CCB9F'),
        amber: pair('#E0A526', '#E0A526'),
        knockout: pair('#FFFFFF', '#10181A'),
        hue,
      },
    },
  },
})

const lean = createSystem(base, config)

/** What components are drawn by. What the sheet holds is there before them, and not worked out again in the browser. */
export const system: SystemContext = { ...lean, _global: [], _config: { ...lean._config, disableLayers: true } }
