/** The words of the rule language: for colouring, for completion, and for the help beside the editor. */

/** How a word may be written. */
export const SHAPES: Readonly<Record<string, string>> = {
  capital: 'begins with a capital: Amber',
  capitals: 'all in capitals: TESSMAR',
  small: 'in small letters: salt',
  initial: 'one capital, with its stop if there is one: J.',
  figure: 'figures: 3,200 or 0410',
  code: 'figures and letters: SW-4',
  letters: 'nothing but letters',
  sign: 'no letter and no figure: | or ;',
}

const CALLS: Readonly<Record<string, string>> = {
  list: 'a whole name of a list',
  found: 'a whole span of a type, of lists and of rules before this one',
  text: 'what a regular expression matches in the text itself',
  tag: 'a word with a part of speech: tag(NOUN)',
  lemma: "any form of a word: lemma('sail')",
  kind: 'a word for a kind of thing: kind(person)',
  like: 'one word that a regular expression matches',
  length: 'how many letters a word has: length(2 to 4)',
  use: 'a fragment',
}

const OTHERS: Readonly<Record<string, string>> = {
  any: 'any word or sign',
  optional: 'once or not at all',
  'up to': 'not at all, or up to so many times: up to 3 any',
  'or more': 'so many times or more: 1 or more capital',
  'any number of': 'not at all, once or more often',
  not: 'a word that is not so: not capital',
  and: 'a word that is both: capital and not list(ports)',
  or: 'one or the other, in round brackets',
  minus: 'within square brackets: without these words',
  as: 'behind square brackets: the type of what is marked',
  'sentence start': 'where a sentence begins',
  'sentence end': 'where a sentence ends',
  'first of': 'the first word of a name or span: first of list(ports)',
  'last of': 'the last word of a name or span',
  'part of': 'any word of a name or span',
}

const STATEMENTS: Readonly<Record<string, string>> = {
  'only if': 'on a line of its own: what must stand around',
  unless: 'on a line of its own: what must not stand around',
  'across sentences': 'on a line of its own: matches may run over the end of a sentence',
  drop: 'on a line of its own: earlier spans with just these words go',
  retype: 'on a line of its own: earlier spans with just these words get this rule’s type',
}

const WHERE: Readonly<Record<string, string>> = {
  'in sentence': 'anywhere else in the sentence',
  'in text': 'anywhere else in the text',
  'earlier in': 'before it: earlier in text',
  'later in': 'behind it: later in sentence',
  within: 'so near: within 3 tokens before',
  inside: 'what is marked lies within a name or span: unless inside list(berths)',
  longer: 'not that span itself: only if inside longer found(VES)',
  repeats: 'the same words stand there: repeats last of found(PER) earlier in text',
}

/** Every word with what it means, as completion offers it. */
export const WORDS: Readonly<Record<string, string>> = { ...SHAPES, ...CALLS, ...OTHERS, ...STATEMENTS, ...WHERE }

const SINGLE = new Set(Object.keys(WORDS).flatMap((words) => words.split(' ')).concat('before', 'after', 'tokens', 'token', 'if', 'to'))

export interface Names {
  types: readonly { code: string; name: string }[]
  lists: readonly string[]
  fragments: readonly string[]
  tags: readonly { tag: string; about: string }[]
  kinds: readonly string[]
}

/** What kind of piece of a pattern begins somewhere, and how long it is. */
export interface Piece {
  kind: 'remark' | 'words' | 'expression' | 'mark' | 'count' | 'shape' | 'word' | 'name' | 'other'
  length: number
}

const LEADS: readonly (readonly [Piece['kind'], RegExp])[] = [
  ['remark', /^#.*/],
  ['words', /^'(?:[^'\\]|\\.)*'?/],
  ['words', /^"(?:[^"\\]|\\.)*"?/],
  ['expression', /^\/(?:[^/\\]|\\.)+\/?/],
  ['mark', /^[[\]]/],
  ['count', /^\d+/],
]
const WORD = /^[\p{L}_][\p{L}\p{N}_-]*/u
const CALL = /^(list|found|use|tag|kind)\s*\(/

/** The piece that a rest of a line begins with; `within` says whether names stand there: after list(, found( and use(. */
export function pieceOf(rest: string, within: boolean): Piece {
  for (const [kind, form] of LEADS) {
    const found = form.exec(rest)?.[0]
    if (found) return { kind, length: found.length }
  }
  if (within) {
    const name = /^[^(),"#]+/.exec(rest)?.[0]
    return { kind: name?.trim() ? 'name' : 'other', length: name?.length ?? 1 }
  }
  const word = WORD.exec(rest)?.[0]
  if (word === undefined) return { kind: 'other', length: 1 }
  if (word in SHAPES || word === 'any') return { kind: 'shape', length: word.length }
  return { kind: SINGLE.has(word) ? 'word' : 'other', length: word.length }
}

/** Do names follow an opening bracket that ends this? */
export const opensNames = (before: string) => CALL.test(/[a-z]+\s*\($/.exec(before)?.[0] ?? '')

export interface Offer {
  label: string
  apply: string
  detail: string
}

/** What can be written where the text before the cursor ends, and from which of its signs on. */
export function offersAt(before: string, names: Names): { from: number; offers: Offer[] } | null {
  const line = before.slice(before.lastIndexOf('\n') + 1)
  if (inQuotes(line)) return null
  const call = /(list|found|use|tag|kind)\s*\(([^()]*)$/.exec(line)
  if (call) {
    const typed = /[^,]*$/.exec(call[2] ?? '')?.[0].trimStart() ?? ''
    return { from: before.length - typed.length, offers: named(call[1] ?? '', names) }
  }
  const code = /(?:\]\s*as|^drop|^retype)\s+([\w.-]*)$/.exec(line)
  if (code) return { from: before.length - (code[1] ?? '').length, offers: named('found', names) }
  const typed = /[a-z]*$/i.exec(line)?.[0] ?? ''
  const first = line.slice(0, line.length - typed.length).trim() === ''
  const known = { ...SHAPES, ...CALLS, ...OTHERS, ...(first ? STATEMENTS : {}), ...WHERE }
  const offers = Object.entries(known).map(([word, detail]) => ({ label: word, apply: word in CALLS ? `${word}(` : word, detail }))
  return { from: before.length - typed.length, offers }
}

function inQuotes(line: string): boolean {
  let at = 0
  while (at < line.length) {
    const { kind, length } = pieceOf(line.slice(at), opensNames(line.slice(0, at)))
    const piece = line.slice(at, at + length)
    if (kind === 'remark') return true
    if ((kind === 'words' || kind === 'expression') && at + length === line.length && (piece.length < 2 || !piece.endsWith(piece.charAt(0)))) return true
    at += length
  }
  return false
}

function named(call: string, names: Names): Offer[] {
  if (call === 'found') return names.types.map(({ code, name }) => ({ label: code, apply: code, detail: name }))
  if (call === 'tag') return names.tags.map(({ tag, about }) => ({ label: tag, apply: tag, detail: about }))
  const known = call === 'list' ? names.lists : call === 'kind' ? names.kinds : names.fragments
  return known.map((name) => ({ label: name, apply: /[(),"#]/.test(name) ? JSON.stringify(name) : name, detail: '' }))
}
