import type { IntakeShown, LookedShown, PlanShown } from '../../api/schema'

export type Plan = PlanShown

/** What a column or field can be for. */
export const ROLES: readonly { value: string; label: string }[] = [
  { value: 'body', label: 'the text' },
  { value: 'title', label: 'title' },
  { value: 'date', label: 'date' },
  { value: 'group', label: 'group' },
  { value: 'order', label: 'order of the texts' },
  { value: 'split', label: 'split' },
  { value: 'id', label: 'its number there' },
  { value: 'meta', label: 'kept with the text' },
  { value: 'none', label: 'left out' },
]

/** Kinds of files by what people call them. */
export const KINDS: Record<string, string> = {
  txt: 'text',
  md: 'Markdown',
  html: 'web page',
  eml: 'mail',
  mbox: 'mailbox',
  pdf: 'PDF',
  docx: 'Word file',
  csv: 'table',
  xlsx: 'workbook',
  jsonl: 'JSON Lines',
  corpus: 'corpus, JSON Lines',
  columns: 'corpus, label columns',
  conllu: 'corpus, CoNLL-U',
  annotations: 'corpus, Web Annotation',
}

export const SEPARATORS: Record<string, string> = { ',': 'comma', ';': 'semicolon', '\t': 'tab', '|': 'bar' }

export const separatorName = (sign: string) => SEPARATORS[sign] ?? sign

/** Which settings say anything about what was found. */
export function settingsFor(looked: LookedShown | null): Record<'per' | 'page' | 'mail' | 'table' | 'corpus' | 'encoding', boolean> {
  const kinds = Object.keys(looked?.kinds ?? {})
  const any = (...wanted: string[]) => kinds.some((kind) => wanted.includes(kind))
  return {
    per: any('txt', 'md', 'pdf'),
    page: any('html'),
    mail: any('eml', 'mbox'),
    table: any('csv', 'xlsx', 'jsonl'),
    corpus: (looked?.labels.length ?? 0) > 0,
    encoding: any('txt', 'md', 'html', 'csv', 'jsonl', 'corpus', 'columns', 'conllu'),
  }
}

/** Is somebody at work on it, and at what? */
export function workOf({ work }: IntakeShown): 'fetching' | 'looking' | 'keeping' | null {
  if (work === null || !['waiting', 'running'].includes(work.state)) return null
  return work.kind === 'import' ? 'keeping' : work.kind === 'fetch pages' ? 'fetching' : 'looking'
}
