import { Box } from '@chakra-ui/react'
import { Fragment } from 'react'

export interface Bounds {
  start: number
  end: number
}

export interface Part {
  words: string
  aside: boolean
}

/** Words in parts: what is their writer's own, and what is quoted or a signature. The bounds are code points of the body in which the words begin at `from`. */
export function partsOf(words: string, aside: readonly Bounds[], from = 0): Part[] {
  if (aside.length === 0) return words === '' ? [] : [{ words, aside: false }]
  const signs = Array.from(words)
  const made: Part[] = []
  const add = (start: number, end: number, isAside: boolean) => {
    const part = signs.slice(Math.max(0, start - from), Math.max(0, end - from)).join('')
    if (part !== '') made.push({ words: part, aside: isAside })
  }
  let at = from
  for (const { start, end } of aside) {
    add(at, start, false)
    add(start, end, true)
    at = end
  }
  add(at, from + signs.length, false)
  return made
}

/** Words of which those that stand aside are set off. */
export function WithAside({ parts }: { parts: readonly Part[] }) {
  return parts.map(({ words, aside }, at) =>
    aside ? (
      <Box as="span" key={at} fontStyle="italic" fontSize="ui" color="second" css={{ '.context &': { color: 'inherit' } }} title="quoted, or a signature">
        {words}
      </Box>
    ) : (
      <Fragment key={at}>{words}</Fragment>
    ),
  )
}

/** What stands between two sentences and is in none of them. */
export function Between({ words }: { words: string }) {
  return words === '' ? null : (
    <Box fontFamily="text" fontStyle="italic" fontSize="ui" color="second" whiteSpace="pre-line" overflowWrap="anywhere" py="1" title="not annotated: quoted, or a signature">
      {words}
    </Box>
  )
}
