import { useEffect, useState } from 'react'

import { system } from '../theme/system'
import type { Measure } from './setting'

const cache = new Map<string, number>()
let canvas: CanvasRenderingContext2D | null = null

function font(): string {
  return `${String(system.token('fontSizes.stave'))} ${String(system.token('fonts.text'))}`
}

/** Width of words in pixels as the stave sets them; remembered, since words come again and again. */
export const measureText: Measure = (words) => {
  let width = cache.get(words)
  if (width === undefined) {
    canvas ??= document.createElement('canvas').getContext('2d')
    if (!canvas) return words.length * 9
    canvas.font = font()
    width = canvas.measureText(words).width
    cache.set(words, width)
  }
  return width
}

/** Faces come in parts, one for some scripts each: the parts that these words need are there already, or are asked for. */
function isThere(words: string): boolean {
  return !('fonts' in document) || document.fonts.check(font(), words)
}

/** Rises when a part of the face that these words need has been loaded, so that what was measured before is measured again. */
export function useFontTurn(words: string): number {
  const [turn, setTurn] = useState(0)
  useEffect(() => {
    if (isThere(words)) return undefined
    let there = true
    document.fonts.load(font(), words).then(
      () => {
        cache.clear()
        if (there) setTurn((n) => n + 1)
      },
      // Without it the words are set in the next best face, as they were measured.
      () => undefined,
    )
    return () => {
      there = false
    }
  }, [words])
  return turn
}
