import { describe, expect, it } from 'vitest'

import { HUES, system } from './system'

/** Linear light from a hex colour or an oklch colour (Ottosson 2020). */
function light(colour: string): [number, number, number] {
  const hex = /^#([0-9A-F]{2})([0-9A-F]{2})([0-9A-F]{2})$/i.exec(colour)
  if (hex) {
    return [1, 2, 3].map((i) => {
      const v = parseInt(hex[i] ?? '', 16) / 255
      return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
    }) as [number, number, number]
  }
  const lch = /^oklch\(([\d.]+) ([\d.]+) ([\d.]+)\)$/.exec(colour)
  if (!lch) throw new Error(`not a colour: ${colour}`)
  const [L, C, h] = [Number(lch[1]), Number(lch[2]), (Number(lch[3]) * Math.PI) / 180]
  const [a, b] = [C * Math.cos(h), C * Math.sin(h)]
  const l = (L + 0.3963377774 * a + 0.2158037573 * b) ** 3
  const m = (L - 0.1055613458 * a - 0.0638541728 * b) ** 3
  const s = (L - 0.0894841775 * a - 1.291485548 * b) ** 3
  const rgb: [number, number, number] = [
    4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s,
  ]
  return rgb.map((v) => Math.max(0, Math.min(1, v))) as [number, number, number]
}

function luminance(colour: string): number {
  const [r, g, b] = light(colour)
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}

/** WCAG 2.2 contrast ratio. */
function contrast(one: string, other: string): number {
  const [a, b] = [luminance(one), luminance(other)]
  return (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05)
}

/** The value of a colour token, in light or dark. */
function value(token: string, dark: boolean): string {
  const conditions = system.tokens.getByName(`colors.${token}`)?.extensions.conditions as Record<string, string> | undefined
  const found = conditions?.[dark ? '_dark' : 'base']
  if (!found) throw new Error(`there is no colour ${token}`)
  return found
}

const AA = 4.5
const PAIRS: readonly (readonly [string, readonly string[]])[] = [
  ['ink', ['ground', 'paper', 'raised', 'chosen', 'goldGround']],
  ['second', ['ground', 'paper', 'raised']],
  ['third', ['paper']],
  ['gold', ['paper', 'goldGround']],
  ['action', ['ground', 'paper', 'raised']],
  ['bad', ['ground', 'paper', 'raised']],
  ['good', ['ground', 'paper']],
  ['onBar', ['bar', 'barHover']],
  ['onBarSecond', ['bar', 'barHover']],
  ['onAction', ['action']],
]

describe.each([
  ['light', false],
  ['dark', true],
])('the %s theme', (_, dark) => {
  it.each(PAIRS.flatMap(([text, grounds]) => grounds.map((ground) => [text, ground] as const)))(
    'sets %s on %s with AA contrast',
    (text, ground) => {
      expect(contrast(value(text, dark), value(ground, dark))).toBeGreaterThanOrEqual(AA)
    },
  )

  it.each([
    ['edge', 'raised'],
    ['edge', 'paper'],
    ['edge', 'ground'],
    ['amber', 'bar'],
    ['gold', 'paper'],
    ['goldMark', 'paper'],
    ['goldMark', 'ground'],
    ['goldMark', 'chosen'],
    ['action', 'chosen'],
  ])('shows %s on %s with the contrast of what is not text', (mark, ground) => {
    expect(contrast(value(mark, dark), value(ground, dark))).toBeGreaterThanOrEqual(3)
  })

  it.each(Array.from({ length: HUES }, (_, i) => i))('reads type hue %i as letters and in bars', (i) => {
    const hue = value(`hue.${i}`, dark)
    expect(contrast(hue, value('paper', dark))).toBeGreaterThanOrEqual(AA)
    expect(contrast(hue, value('ground', dark))).toBeGreaterThanOrEqual(AA)
    expect(contrast(value('knockout', dark), hue)).toBeGreaterThanOrEqual(AA)
  })
})

it('measures contrast as the standard does', () => {
  expect(contrast('#000000', '#FFFFFF')).toBeCloseTo(21, 5)
  expect(contrast('#767676', '#FFFFFF')).toBeCloseTo(4.54, 2)
  expect(contrast('oklch(1 0 0)', '#000000')).toBeCloseTo(21, 1)
})
