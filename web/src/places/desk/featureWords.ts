/** What a tagger's feature is called, in plain words. */
const NAMED: Record<string, string> = {
  'all capitals': 'in capitals',
  capital: 'begins with a capital',
  figure: 'has a figure',
  'lexicon several': 'in the lexicon: several kinds of things',
  'repeated in the text': 'comes again in the text',
  'small elsewhere in the text': 'in small letters elsewhere in the text',
  'capital within a sentence elsewhere': 'has a capital within a sentence elsewhere',
}
const QUOTED: Record<string, string> = { word: 'word', form: 'written', begins: 'begins', ends: 'ends', holds: 'holds' }
const PAIRS: Record<string, string> = {
  'pair before': 'with the word before:',
  'pair after': 'with the word after:',
  'outlines before': 'shapes with the word before:',
  'outlines after': 'shapes with the word after:',
  'elsewhere before': 'elsewhere in the text after',
  'elsewhere after': 'elsewhere in the text before',
}
const SOURCES: Record<string, string> = { lists: 'lists', rules: 'rules', repeats: 'same words elsewhere' }
const MAKERS: Record<string, string> = { lists: 'list', rules: 'rule' }
const FINENESS = ['coarse', 'middle', 'fine']
const PARTS: Record<string, string> = { begins: 'begins', inside: 'goes on' }
const PLACES: Record<string, string> = { '-2': 'two before', '-1': 'the word before', '1': 'the word after', '2': 'two after' }

/** Runs of one sign: in a shape each sign is written, in an outline a run of several is a sign and a plus. */
const RUNS = { shape: /([Aa9])\1*/gu, outline: /[Aa9]\+?/gu }
const SIGNS: Record<string, readonly [one: string, more: string]> = {
  A: ['capital', 'capitals'],
  a: ['small letter', 'small letters'],
  '9': ['figure', 'figures'],
}

/** A drawn word as one would describe it; the signs of a shape are counted. */
function described(drawn: string, way: 'shape' | 'outline'): string {
  const runs = [...drawn.matchAll(RUNS[way])].map(([run]) => run)
  // Other signs, or many changes, are easier seen than told.
  if (runs.join('') !== drawn || runs.length > 2) return `shape ${drawn}`
  return runs
    .map((run) => {
      const [one, more] = SIGNS[run.charAt(0)] ?? ['', '']
      if (run.length === 1) return `a ${one}`
      return way === 'shape' ? `${run.length} ${more}` : more
    })
    .join(', then ')
}

export interface FeatureWords {
  what: string
  /** Where the word that has it stands; nothing at the labelled word itself. */
  where: string
}

/** A contribution's feature as the tagger names it, and how far from the labelled word it stands. */
export function featureWords(feature: string, offset: number): FeatureWords {
  const where = PLACES[String(offset)] ?? ''
  if (feature === 'beyond the sentence') return { what: offset < 0 ? 'the sentence begins here' : 'the sentence ends here', where: '' }
  const named = NAMED[feature]
  if (named !== undefined) return { what: named, where }
  const known = /^lexicon (name of )?(\w+)(?:, (begins|inside))?$/u.exec(feature)
  if (known) {
    const [, isName, kind = '', part] = known
    const what = isName ? `name, ${kind}` : kind
    return { what: part === undefined ? `in the lexicon: ${what}` : `phrase in the lexicon: ${what}, ${PARTS[part] ?? part}`, where }
  }
  const hit = /^(\S+) (\S+) (begins|inside)(?: ([+-]\d))?$/u.exec(feature)
  if (hit) {
    const [, source = '', code = '', part = '', reach = '0'] = hit
    return { what: `${SOURCES[source] ?? source}: ${code} ${PARTS[part] ?? part}`, where: PLACES[String(Number(reach))] ?? '' }
  }
  const own = /^(lists|rules) “(.*)” (\S+) (begins|inside)(?: ([+-]\d))?$/u.exec(feature)
  if (own) {
    const [, source = '', name = '', code = '', part = '', reach = '0'] = own
    return { what: `${MAKERS[source] ?? source} “${name}”: ${code} ${PARTS[part] ?? part}`, where: PLACES[String(Number(reach))] ?? '' }
  }
  const at = feature.indexOf('=')
  if (at < 0) return { what: feature, where }
  const kind = feature.slice(0, at)
  const rest = feature.slice(at + 1)
  if (kind === 'shape' || kind === 'outline') return { what: described(rest, kind), where }
  const level = /^class (\d+)$/u.exec(kind)?.[1]
  if (level !== undefined) return { what: `word class ${rest}, ${FINENESS[Number(level)] ?? `level ${level}`}`, where }
  const quoted = QUOTED[kind]
  if (quoted !== undefined) return { what: `${quoted} “${rest}”`, where }
  return { what: `${PAIRS[kind] ?? kind} “${rest}”`, where }
}
