import { Box, Flex } from '@chakra-ui/react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'

import { messageOf } from '../../api/client'
import { CodePoints } from '../../api/offsets'
import { useLanguage, useProject } from '../../api/project'
import type { LookShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { QuietAct, TextField } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Title } from '../../parts/layout'
import { useSettled } from '../../parts/useSettled'
import { score } from '../../parts/words'
import { type Lane, otherLane } from '../../stave/span'
import { type Selection, Stave } from '../../stave/Stave'
import type { Draft } from './drafts'
import { FromExample } from './FromExample'
import { languageQuery, wordsQuery } from './queries'

interface WordsSheetProps {
  lead: boolean
  /** What is looked at first. */
  sentence: string
  onClose: () => void
  /** A rule is begun with what was chosen. */
  onRule: (draft: Draft) => void
}

/** A sentence as rules see it: parts of speech, lemmas, names, spans and phrases; and a rule made of words chosen in it. */
export function WordsSheet({ lead, sentence, onClose, onRule }: WordsSheetProps) {
  const project = useProject()
  const lang = useLanguage()
  const { hues } = useScheme()
  const [text, setText] = useState(sentence)
  const [selection, setSelection] = useState<Selection>()
  const settled = useSettled(text.trim())
  const look = useQuery({ ...wordsQuery(project, settled), enabled: settled !== '', placeholderData: keepPreviousData })
  const seen = look.data && !look.isPlaceholderData && settled !== '' ? look.data : undefined
  const last = (seen?.words.length ?? 0) - 1
  // The end that moves goes on within the sentence; with `whole` both ends do.
  const choose = (by: number, whole: boolean) => {
    const head = Math.min(last, Math.max(0, (selection?.head ?? -by) + by))
    setSelection({ anchor: whole ? head : (selection?.anchor ?? head), head })
  }
  useKeys(
    [
      { keys: ['escape'], caps: ['esc'], label: 'back to the rules', run: onClose },
      ...(lead && last >= 0
        ? [
            { keys: ['arrowright'], caps: ['→'], label: 'choose the next word', run: () => choose(1, true) },
            { keys: ['arrowleft'], caps: ['←'], label: 'choose the word before', run: () => choose(-1, true), quiet: true },
            { keys: ['shift+arrowright'], caps: ['shift', '→'], label: 'choose a word more', run: () => choose(1, false) },
            { keys: ['shift+arrowleft'], caps: ['shift', '←'], label: 'choose a word less', run: () => choose(-1, false), quiet: true },
          ]
        : []),
    ],
    1,
  )
  const lanes = useLanes(seen)
  const forms = useMemo(() => {
    const points = new CodePoints(settled)
    return seen?.words.map(({ start, end }) => points.slice(start, end)) ?? []
  }, [seen, settled])
  const chosen = selection && seen && Math.max(selection.anchor, selection.head) < seen.words.length ? selection : undefined
  return (
    <Box>
      <Title side={<QuietAct onClick={onClose}>close</QuietAct>}>Words and phrases</Title>
      <TextField
        label="sentence"
        lines={2}
        serif
        autoFocus
        value={text}
        help="What rules know of its words: parts of speech, lemmas, names of lists, spans of rules, and what fragments match."
        onChange={(value) => {
          setText(value)
          setSelection(undefined)
        }}
      />
      {look.error && (
        <Box color="bad" role="alert">
          {messageOf(look.error)}
        </Box>
      )}
      {seen && (
        <Stave words={settled} start={0} tokens={seen.words} lang={lang} lanes={lanes} hues={hues} selection={chosen} onSelect={lead ? setSelection : undefined} />
      )}
      {seen && lead && !chosen && (
        <Flex gap="2" align="center" mt="3" color="second">
          Choose words to make a rule of them: by mouse, or with → and shift → once you have left the field.
          {seen.words.length > 0 && <QuietAct onClick={() => setSelection({ anchor: 0, head: 0 })}>choose the first</QuietAct>}
        </Flex>
      )}
      {seen && chosen && (
        <FromExample
          key={settled}
          look={seen}
          forms={forms}
          sentence={settled}
          first={Math.min(chosen.anchor, chosen.head)}
          last={Math.max(chosen.anchor, chosen.head)}
          onSelect={(first, last) => setSelection({ anchor: first, head: last })}
          onRule={onRule}
        />
      )}
    </Box>
  )
}

function useLanes(look: LookShown | undefined): Lane[] {
  const project = useProject()
  const language = useQuery(languageQuery(project))
  return useMemo(() => {
    if (!look) return []
    const told = new Map(language.data?.tags.map((one) => [one.tag, tagHelp(one)]))
    const known = look.words.filter(({ tag }) => tag)
    return [
      ...(known.length
        ? [
            otherLane('tags', 'Tag', known.filter(({ tag }) => tag !== 'PUNCT').map(({ start, end, tag }) => ({ start, end, type: tag, why: told.get(tag) }))),
            otherLane('lemmas', 'Lemma', known.filter(({ tag }) => tag !== 'PUNCT').map(({ start, end, lemma }) => ({ start, end, type: lemma }))),
          ]
        : []),
      otherLane('lists', 'Lists', look.lists),
      otherLane('rules', 'Rules', look.rules),
      ...phraseLanes(look.phrases),
    ]
  }, [look, language.data])
}

/** A lane for each fragment that matches something: its name would not fit into the bars of single words. */
function phraseLanes(phrases: LookShown['phrases']): Lane[] {
  const names = [...new Set(phrases.map(({ type }) => type))]
  return names.map((name) => otherLane(`fragment ${name}`, name, phrases.filter(({ type }) => type === name).map(({ start, end }) => ({ start, end, type: '', why: `the fragment “${name}”` })), { look: 'bar' }))
}

interface TagFigures {
  about: string
  found: number
  right: number
}

const tagHelp = ({ about, found, right }: TagFigures) => (found > 0 ? `${about} · ${score(right / found)} % of words so tagged are, in sentences held out` : about)

/** The parts of speech with what each stands for and how often it is right. */
export function TagsHelp() {
  const project = useProject()
  const language = useQuery(languageQuery(project))
  const figures = language.data
  if (!figures) return null
  if (figures.tags.length === 0) return <Box color="second">There are no parts of speech for this project’s language; rules that ask for them cannot be saved.</Box>
  return (
    <>
      {figures.tags.map((one) => (
        <Box key={one.tag} mb="1.5">
          <Box as="code" fontFamily="mono" fontSize="small">
            {one.tag}
          </Box>{' '}
          {one.about}
          {one.found > 0 && (
            <Box as="span" color="second">
              {' '}
              · {score(one.right / one.found)} %
            </Box>
          )}
        </Box>
      ))}
      <Box color="second" mt="3">
        Behind each how many of the words so tagged are, in sentences that were held out.{' '}
        {figures.held_out.map(({ source, words, right, known, known_right, unknown, unknown_right }) => (
          <Box key={source} mt="1">
            {source}: {score(right / words)} % of all words, {score(known_right / known)} % of those met before, {score(unknown_right / unknown)} % of others
          </Box>
        ))}
      </Box>
    </>
  )
}
