import type { ProjectFigures } from '../api/schema'
import { moment, number, percent, plural, score } from '../parts/words'

export interface Place {
  path: string
  name: string
  /** Its live figure in the bar. */
  figure: (f: ProjectFigures) => string
}

function interval(f: NonNullable<ProjectFigures['scores']>): string {
  if (f.low === null || f.high === null) return ''
  return ` ± ${score((f.high - f.low) / 2)}`
}

function running(f: ProjectFigures, kind: string): string | undefined {
  const job = f.running.find((j) => j.kind === kind)
  if (!job) return undefined
  return job.state === 'waiting' ? 'waiting' : job.total > 0 ? `running, ${percent(job.done, job.total)}` : 'running'
}

/** The places in working order. */
export const PLACES: readonly Place[] = [
  { path: 'types', name: 'Types', figure: (f) => `${plural(f.types, 'type')} · v${number(f.scheme)}` },
  { path: 'texts', name: 'Texts', figure: (f) => plural(f.texts, 'text') },
  { path: 'desk', name: 'Desk', figure: (f) => `${percent(f.signed, f.sentences)} signed` },
  { path: 'lists', name: 'Lists', figure: (f) => `${plural(f.lists, 'list')} · ${plural(f.names, 'name')}` },
  {
    path: 'rules',
    name: 'Rules',
    figure: (f) => (f.rules_failing > 0 ? `${plural(f.rules, 'rule')} · ${number(f.rules_failing)} failing` : plural(f.rules, 'rule')),
  },
  {
    path: 'tagger',
    name: 'Tagger',
    figure: (f) => running(f, 'training') ?? (f.tagger ? `trained ${moment(f.tagger.made_at)}` : 'none yet'),
  },
  { path: 'pipeline', name: 'Pipeline', figure: (f) => `${plural(f.pipeline.stages, 'stage')} · v${number(f.pipeline.version)}` },
  {
    path: 'scores',
    name: 'Scores',
    figure: (f) =>
      running(f, 'scoring') ?? (f.scores ? `F1 ${score(f.scores.f1)}${interval(f.scores)}` : 'none yet'),
  },
  {
    path: 'records',
    name: 'Records',
    figure: (f) => running(f, 'assembly') ?? `${plural(f.records, 'record')} · ${number(f.records_open)} open`,
  },
]
