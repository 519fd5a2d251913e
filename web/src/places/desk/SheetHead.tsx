import { Box, Flex } from '@chakra-ui/react'
import { memo } from 'react'
import { Link } from 'react-router'

import { useProject } from '../../api/project'
import type { DeskSentenceShown } from '../../api/schema'
import { LinkAct } from '../../parts/controls'

interface HeadProps {
  shown: DeskSentenceShown
  state: string
  spans: number
  onUnsign: () => void
  onOpen: (what: 'history' | 'question') => void
  onRead: () => void
  onUndo: () => void
}

/** Which sentence this is, how it stands, and what opens from it. Not drawn again with a key that changes none of it. */
export const Head = memo(function Head({ shown, state, spans, onUnsign, onOpen, onRead, onUndo }: HeadProps) {
  return (
    <Flex justify="space-between" fontSize="small" color="second" mb="4" gap="4" wrap="wrap">
      <Box>
        <Box as="h1" display="inline" fontWeight="bold" color="ink">
          {shown.text.title}
        </Box>
        {shown.text.group && ` · ${shown.text.group}`}
        {shown.text.source && ` · from ${shown.text.place ? `${shown.text.source}, ${shown.text.place}` : shown.text.source}`} · sentence {shown.number + 1} of {shown.of} · {shown.text.split === 'none' ? 'no split' : shown.text.split} · {stateWords(state, spans)}
        {state === 'signed' && (
          <LinkAct ml="3" onClick={onUnsign}>
            withdraw the signature
          </LinkAct>
        )}
      </Box>
      <Flex gap="4">
        <LinkAct onClick={onUndo}>undo</LinkAct>
        <LinkAct onClick={onRead}>read the text</LinkAct>
        {!shown.quiet && <Traced sentence={shown.id} />}
        <Openers onOpen={onOpen} />
      </Flex>
    </Flex>
  )
})

/** How the pipeline comes to its answer here. */
const Traced = memo(function Traced({ sentence }: { sentence: number }) {
  return (
    <LinkAct asChild>
      <Link to={`/p/${useProject()}/pipeline/${sentence}`}>trace</Link>
    </LinkAct>
  )
})

const Openers = memo(function Openers({ onOpen }: { onOpen: (what: 'history' | 'question') => void }) {
  return (
    <>
      <LinkAct onClick={() => onOpen('question')}>ask the lead</LinkAct>
      <LinkAct onClick={() => onOpen('history')}>history</LinkAct>
    </>
  )
})

/** A state as one says it. */
export function stateWords(state: string, spans: number): string {
  if (state === 'signed') return spans === 0 ? 'signed as empty' : 'signed'
  return state === 'draft' ? 'begun, not signed' : 'untouched'
}
