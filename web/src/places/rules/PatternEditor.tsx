import { autocompletion, closeBrackets, closeBracketsKeymap, type CompletionContext, completionKeymap } from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { bracketMatching, HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language'
import { type Diagnostic, setDiagnostics } from '@codemirror/lint'
import { Compartment, EditorState } from '@codemirror/state'
import { EditorView, hoverTooltip, keymap } from '@codemirror/view'
import { tags } from '@lezer/highlight'
import { useEffect, useRef } from 'react'

import { CodePoints } from '../../api/offsets'
import { type Names, offersAt, opensNames, pieceOf, WORDS } from './language'

export interface Fault {
  message: string
  /** In code points. */
  start: number
  end: number
}

interface PatternEditorProps {
  label: string
  value: string
  onChange: (value: string) => void
  names: Names
  fault: Fault | undefined
  autoFocus?: boolean
}

const TAGS = {
  remark: tags.comment,
  words: tags.string,
  expression: tags.regexp,
  mark: tags.bracket,
  count: tags.number,
  shape: tags.atom,
  word: tags.keyword,
  name: tags.name,
}

const LANGUAGE = StreamLanguage.define<{ names: boolean }>({
  startState: () => ({ names: false }),
  token(stream, state) {
    if (stream.eatSpace()) return null
    const { kind, length } = pieceOf(stream.string.slice(stream.pos), state.names)
    const before = stream.string.slice(0, stream.pos + length)
    stream.pos += length
    if (before.endsWith('(')) state.names = opensNames(before)
    else if (before.endsWith(')')) state.names = false
    return kind === 'other' ? null : kind
  },
  tokenTable: TAGS,
})

const colour = (token: string) => `var(--chakra-colors-${token})`
const LOOK = HighlightStyle.define([
  { tag: TAGS.remark, color: colour('second'), fontStyle: 'italic' },
  { tag: TAGS.words, color: colour('ink') },
  { tag: TAGS.expression, color: colour('good') },
  { tag: TAGS.mark, color: colour('bad'), fontWeight: 'bold' },
  { tag: TAGS.count, color: colour('action') },
  { tag: TAGS.shape, color: colour('action') },
  { tag: TAGS.word, color: colour('second') },
  { tag: TAGS.name, textDecoration: 'underline', textDecorationColor: colour('third') },
])

const FRAME = EditorView.theme({
  '&': { backgroundColor: colour('paper'), border: `1px solid ${colour('edge')}`, color: colour('ink'), fontSize: 'var(--chakra-font-sizes-ui)' },
  '&.cm-focused': { outline: `2px solid ${colour('action')}`, outlineOffset: '-1px' },
  '.cm-scroller': { fontFamily: 'var(--chakra-fonts-mono)', lineHeight: '1.6', minHeight: '5.5em', maxHeight: '18em' },
  '.cm-content': { caretColor: colour('ink'), padding: '6px 0' },
  '.cm-tooltip': { backgroundColor: colour('paper'), color: colour('ink'), border: `1px solid ${colour('hairline')}`, fontFamily: 'var(--chakra-fonts-body)' },
  '.cm-tooltip-hover': { padding: '4px 8px', maxWidth: '28em' },
  '.cm-tooltip-autocomplete > ul > li[aria-selected]': { backgroundColor: colour('action'), color: colour('paper') },
  '.cm-completionDetail': { fontStyle: 'normal', fontFamily: 'var(--chakra-fonts-body)' },
  '.cm-matchingBracket': { backgroundColor: colour('goldGround'), outline: 'none' },
})

/** A pattern as one writes it: coloured, with what may stand next, and with a fault where it is. */
export default function PatternEditor({ label, value, onChange, names, fault, autoFocus = false }: PatternEditorProps) {
  const place = useRef<HTMLDivElement>(null)
  const view = useRef<EditorView>(null)
  // What the editor reads when something happens in it.
  const held = useRef({ onChange, names })
  const described = useRef(new Compartment())
  const first = useRef({ value, autoFocus, label })
  useEffect(() => {
    held.current = { onChange, names }
  })
  useEffect(() => {
    if (!place.current) return
    const made = new EditorView({
      parent: place.current,
      state: EditorState.create({
        doc: first.current.value,
        extensions: [
          history(),
          closeBrackets(),
          bracketMatching(),
          autocompletion({ override: [complete(held)], icons: false }),
          hover,
          LANGUAGE,
          syntaxHighlighting(LOOK),
          FRAME,
          EditorView.lineWrapping,
          described.current.of(EditorView.contentAttributes.of({ 'aria-label': first.current.label, spellcheck: 'false' })),
          // Tab goes on to the next field, and what the page does by a key stays the page's.
          keymap.of([...closeBracketsKeymap, ...completionKeymap, ...historyKeymap, ...defaultKeymap.filter(({ key }) => key !== 'Mod-Enter' && key !== 'Escape')]),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) held.current.onChange(update.state.doc.toString())
          }),
        ],
      }),
    })
    view.current = made
    if (first.current.autoFocus) made.focus()
    return () => made.destroy()
  }, [])
  useEffect(() => {
    const made = view.current
    if (made && made.state.doc.toString() !== value) made.dispatch({ changes: { from: 0, to: made.state.doc.length, insert: value } })
  }, [value])
  useEffect(() => {
    const made = view.current
    if (!made) return
    const invalid = { 'aria-label': label, spellcheck: 'false', ...(fault ? { 'aria-invalid': 'true' } : {}) }
    made.dispatch(setDiagnostics(made.state, fault ? [shown(made, fault)] : []), {
      effects: described.current.reconfigure(EditorView.contentAttributes.of(invalid)),
    })
  }, [label, fault])
  return <div ref={place} />
}

function shown(view: EditorView, { message, start, end }: Fault): Diagnostic {
  const text = view.state.doc.toString()
  const points = new CodePoints(text)
  const unit = (point: number) => Math.min(points.slice(0, Math.min(point, points.end)).length, text.length)
  const from = Math.min(unit(start), Math.max(0, text.length - 1))
  return { from, to: Math.min(text.length, Math.max(unit(end), from + 1)), severity: 'error', message }
}

const complete = (held: { current: { names: Names } }) => (context: CompletionContext) => {
  const found = offersAt(context.state.sliceDoc(0, context.pos), held.current.names)
  if (!found || (!context.explicit && found.from === context.pos && !/\(\s*$/.test(context.state.sliceDoc(0, context.pos)))) return null
  return { from: found.from, options: found.offers.map(({ label, apply, detail }) => ({ label, apply, detail })) }
}

const hover = hoverTooltip((view, at) => {
  const line = view.state.doc.lineAt(at)
  const word = [...line.text.matchAll(/[a-z]+/g)].find(({ index, 0: [...signs] }) => index <= at - line.from && at - line.from < index + signs.length)
  if (!word) return null
  const meaning = WORDS[word[0]] ?? Object.entries(WORDS).find(([words]) => words.startsWith(`${word[0]} `))?.[1]
  if (!meaning) return null
  return {
    pos: line.from + word.index,
    create: () => {
      const dom = document.createElement('div')
      dom.textContent = `${word[0]}: ${meaning}`
      return { dom }
    },
  }
})
