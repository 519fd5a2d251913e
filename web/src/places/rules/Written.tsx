import { Box } from '@chakra-ui/react'

import { opensNames, type Piece, pieceOf } from './language'

const LOOK: Partial<Record<Piece['kind'], object>> = {
  remark: { color: 'second', fontStyle: 'italic' },
  expression: { color: 'good' },
  mark: { color: 'bad', fontWeight: 'bold' },
  count: { color: 'action' },
  shape: { color: 'action' },
  word: { color: 'second' },
  name: { textDecoration: 'underline', textDecorationColor: 'third' },
}

/** A pattern as it is read, coloured as in the editor. */
export function Written({ pattern }: { pattern: string }) {
  return (
    <Box as="pre" fontFamily="mono" bg="ground" borderWidth="1px" borderColor="hairline" p="3" mb="3" whiteSpace="pre-wrap" wordBreak="break-word" lineHeight="tall">
      {piecesOf(pattern).map(({ kind, text, at }) =>
        LOOK[kind] ? (
          <Box as="span" key={at} {...LOOK[kind]}>
            {text}
          </Box>
        ) : (
          text
        ),
      )}
    </Box>
  )
}

function piecesOf(pattern: string): { kind: Piece['kind']; text: string; at: number }[] {
  const pieces = []
  let at = 0
  let names = false
  while (at < pattern.length) {
    const line = pattern.slice(pattern.lastIndexOf('\n', at - 1) + 1, at)
    const end = pattern.indexOf('\n', at)
    const rest = pattern.slice(at, end < 0 ? undefined : end)
    const { kind, length } = rest ? pieceOf(rest, names) : ({ kind: 'other', length: 1 } as const)
    const text = pattern.slice(at, at + length)
    if (text.endsWith('(')) names = opensNames(line + text)
    else if (text.endsWith(')')) names = false
    pieces.push({ kind, text, at })
    at += length
  }
  return pieces
}
