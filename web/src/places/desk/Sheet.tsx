import { Box, Flex } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { type ReactNode, useCallback, useEffect, useMemo, useState } from 'react'
import { Link } from 'react-router'

import { useProject } from '../../api/project'
import type { DeskSentenceShown, SpanShown } from '../../api/schema'
import { CodePoints } from '../../api/offsets'
import { Ask } from '../../parts/Ask'
import { LinkAct } from '../../parts/controls'
import { type KeyBinding, useKeys } from '../../parts/keys'
import { Columns, Section } from '../../parts/layout'
import { tell } from '../../parts/notes'
import { stepped } from '../../parts/RowList'
import { differences, type Lane, type StaveSpan } from '../../stave/layout'
import { Stave } from '../../stave/Stave'
import { nextGap, overlaps, tokensOf } from './edits'
import { DeskRight } from './DeskRight'
import { History } from './History'
import { sentenceQuery } from './queries'
import { type useQueue, useSentence } from './useDesk'

const LANES: readonly (readonly [string, string])[] = [
  ['lists', 'Lists'],
  ['rules', 'Rules'],
  ['tagger', 'Tagger'],
]
const CONTEXT = 700

interface SheetProps {
  id: number
  queue: ReturnType<typeof useQueue>
  left: ReactNode
}

/** One sentence open on the Desk. */
export function Sheet({ id, queue, left }: SheetProps) {
  const { items } = queue
  const project = useProject()
  const client = useQueryClient()
  const desk = useSentence(id, queue)
  const { sentence, standing, selection, setSelection, types } = desk
  const [history, setHistory] = useState(false)

  const next = stepped(items, (item) => item.id, id, 1)
  useEffect(() => {
    if (next && next.id !== id) client.query(sentenceQuery(project, next.id)).catch(() => undefined)
  }, [client, project, next, id])

  const hues = useMemo(() => new Map(types.map((t) => [t.code, t.hue])), [types])
  const lanes = useMemo((): Lane[] => {
    const gold: Lane = { name: 'gold', label: 'Gold', kind: 'gold', spans: standing.spans }
    if (!sentence) return [gold]
    const found = LANES.flatMap(([name, label]): Lane[] => {
      const spans = sentence.lanes[name]
      return spans ? [{ name, label, kind: 'evidence', spans }] : []
    })
    return [gold, ...found]
  }, [sentence, standing.spans])
  const differing = useMemo(
    () => (sentence && !sentence.quiet ? differences(standing.spans, sentence.resolved) : []),
    [sentence, standing.spans],
  )
  const evidence = useMemo(() => evidenceAt(sentence, desk.range), [sentence, desk.range])

  const last = (sentence?.tokens.length ?? 1) - 1
  const step = (by: number, widen: boolean) => {
    const head = Math.max(0, Math.min(last, selection.head + by))
    setSelection({ anchor: widen ? selection.anchor : head, head })
  }
  const select = useCallback(
    (span: StaveSpan) => {
      const place = sentence && tokensOf(sentence.tokens, span)
      if (place) setSelection({ anchor: place[0], head: place[1] })
    },
    [sentence, setSelection],
  )
  // What the sources come to goes before what one of them says.
  const best = evidence.find(([, span]) => isResolved(sentence, span)) ?? evidence[0]
  const takeEvidence = () => {
    if (best) desk.take(best[1])
    else tell('There is no evidence under the cursor.')
  }
  const gap = () => {
    const from = sentence?.tokens[Math.min(selection.anchor, selection.head)]?.start ?? 0
    const found = nextGap(differing, from)
    if (found) select(found)
    else tell('Gold and evidence agree here.')
  }

  const keys: KeyBinding[] = [
    { keys: ['arrowright'], caps: ['←', '→'], label: 'token', run: () => step(1, false) },
    { keys: ['arrowleft'], caps: ['←'], label: 'token before', run: () => step(-1, false), quiet: true },
    { keys: ['shift+arrowright'], caps: ['shift', '→'], label: 'widen', run: () => step(1, true) },
    { keys: ['shift+arrowleft'], caps: ['shift', '←'], label: 'narrow or widen to the left', run: () => step(-1, true), quiet: true },
    ...types.map(
      (t): KeyBinding => ({ keys: [t.key], caps: [t.key], label: `mark as ${t.name}`, run: () => desk.markAs(t.code), quiet: true }),
    ),
    { keys: [], caps: ['letter'], label: 'mark', run: () => undefined },
    { keys: ['space'], caps: ['space'], label: 'take the evidence', run: takeEvidence },
    { keys: ['.'], caps: ['.'], label: 'next gap', run: gap },
    { keys: ['backspace', 'delete'], caps: ['backspace'], label: 'remove', run: desk.remove },
    { keys: ['enter'], caps: ['enter'], label: 'sign and go on', run: desk.sign },
    { keys: ['ctrl+enter'], caps: ['ctrl', 'enter'], label: 'sign as empty', run: desk.signEmpty },
    { keys: ['ctrl+z'], caps: ['ctrl', 'z'], label: 'undo', run: desk.undo },
    { keys: ['ctrl+shift+z', 'ctrl+y'], caps: ['ctrl', 'shift', 'z'], label: 'do again', run: desk.redo, quiet: true },
    { keys: ['arrowdown'], caps: ['↓'], label: 'next sentence', run: () => desk.goTo(next), quiet: true },
    { keys: ['arrowup'], caps: ['↑'], label: 'sentence before', run: () => desk.goTo(stepped(items, (item) => item.id, id, -1)), quiet: true },
    { keys: ['home'], caps: ['home'], label: 'first token', run: () => setSelection({ anchor: 0, head: 0 }), quiet: true },
    { keys: ['end'], caps: ['end'], label: 'last token', run: () => setSelection({ anchor: last, head: last }), quiet: true },
    { keys: ['escape'], caps: ['esc'], label: 'only the token under the cursor', run: () => step(0, false), quiet: true },
  ]
  useKeys(keys)

  const words = sentence && desk.range ? new CodePoints(sentence.words, sentence.start).slice(desk.range.start, desk.range.end) : ''
  return (
    <Columns
      left={left}
      right={
        sentence && (
          <DeskRight types={types} sentence={sentence} standing={standing} range={desk.range} words={words} evidence={evidence} onMark={desk.markAs} onTake={desk.take} />
        )
      }
    >
      <Ask query={desk.query}>
        {(open) => (
          <Box px="6" pt="4" pb="8">
            <Flex justify="space-between" fontSize="small" color="second" mb="4" gap="4" wrap="wrap">
              <Box>
                <Box as="b" color="ink">
                  {open.text.title}
                </Box>{' '}
                · {open.text.group} · sentence {open.number + 1} of {open.of} · {stateWords(standing.state, standing.spans.length)}
                {standing.state === 'signed' && (
                  <LinkAct ml="3" onClick={desk.unsign}>
                    take the signing back
                  </LinkAct>
                )}
              </Box>
              <Flex gap="4">
                <LinkAct onClick={() => setHistory(true)}>history</LinkAct>
                <span>split: {open.text.split}</span>
              </Flex>
            </Flex>
            <Context words={open.before.slice(-CONTEXT)} cut={open.before.length > CONTEXT} />
            <Stave
              words={open.words}
              start={open.start}
              tokens={open.tokens}
              lanes={lanes}
              differing={differing}
              hues={hues}
              selection={selection}
              onSelect={setSelection}
              onSpan={select}
            />
            {open.quiet && (
              <Box color="second" fontSize="small" ml="laneLabel" mb="3">
                {open.quiet}
              </Box>
            )}
            <Context words={open.after.slice(0, CONTEXT)} />
            <Section>
              <Definition types={types} spans={standing.spans} evidence={best} range={desk.range} />
            </Section>
          </Box>
        )}
      </Ask>
      {history && <History sentence={id} onClose={() => setHistory(false)} />}
    </Columns>
  )
}

type Evidence = readonly (readonly [string, SpanShown])[]

function evidenceAt(sentence: DeskSentenceShown | undefined, range: { start: number; end: number } | undefined): Evidence {
  if (!sentence || !range) return []
  return LANES.flatMap(([name, label]) =>
    (sentence.lanes[name] ?? []).filter((span) => overlaps(span, range)).map((span) => [label, span] as const),
  )
}

function isResolved(sentence: DeskSentenceShown | undefined, span: SpanShown): boolean {
  return sentence?.resolved.some((s) => s.start === span.start && s.end === span.end && s.type === span.type) ?? false
}

function stateWords(state: string, spans: number): string {
  if (state === 'signed') return spans === 0 ? 'signed as empty' : 'signed'
  return state === 'draft' ? 'begun, not signed' : 'untouched'
}

function Context({ words, cut = false }: { words: string; cut?: boolean }) {
  const text = words.trim()
  if (!text) return null
  return (
    <Box fontFamily="text" fontSize="context" color="third" whiteSpace="pre-line" ml="laneLabel" mb="3" maxW="3xl">
      {cut && '… '}
      {text}
    </Box>
  )
}

// The first examples are the plainest; the rest stand one click away, or the stave would be pushed out of sight.
const SHOWN = 3

function Definition({ types, spans, evidence, range }: {
  types: ReturnType<typeof useSentence>['types']
  spans: readonly { start: number; end: number; type: string }[]
  evidence: Evidence[number] | undefined
  range: { start: number; end: number } | undefined
}) {
  const project = useProject()
  const code = spans.find((s) => range && overlaps(s, range))?.type ?? evidence?.[1].type
  const type = types.find((t) => t.code === code)
  if (!type) {
    return <Box color="second">With the cursor on a span or on evidence, the definition of its type stands here.</Box>
  }
  return (
    <Box maxW="3xl">
      <Box fontSize="tiny" fontWeight="bold" color="second" mb="1">
        Definition · {type.name}
      </Box>
      <Box mb="1">{type.definition}</Box>
      {type.counts.length > 0 && (
        <Box>
          <Box as="b" color="good">
            Counts:
          </Box>{' '}
          {type.counts.slice(0, SHOWN).join('; ')}
        </Box>
      )}
      {type.counts_not.length > 0 && (
        <Box>
          <Box as="b" color="bad">
            Does not:
          </Box>{' '}
          {type.counts_not.slice(0, SHOWN).join('; ')}
        </Box>
      )}
      <LinkAct asChild mt="1">
        <Link to={`/p/${project}/types/${type.id}`}>all guidelines for {type.name}</Link>
      </LinkAct>
    </Box>
  )
}
