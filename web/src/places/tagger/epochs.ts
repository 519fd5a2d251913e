import type { EpochShown, JobShown } from '../../api/schema'

/** The best dev F1 so far, 0 to 1; nothing where no dev sentence is signed. */
export function bestDev(epochs: readonly EpochShown[]): number | undefined {
  const scores = epochs.flatMap((e) => (e.dev_f1 === null ? [] : [e.dev_f1]))
  return scores.length > 0 ? Math.max(...scores) : undefined
}

/** " · 0.2 s each · about 3 s left" from how long the job has run; nothing before the first epoch. */
export function timeLeft(job: Pick<JobShown, 'started_at' | 'done' | 'total'>, now = Date.now()): string {
  if (!job.started_at || job.done === 0) return ''
  const each = (now - new Date(job.started_at).getTime()) / 1000 / job.done
  const left = each * (job.total - job.done)
  return ` · ${each.toFixed(1)} s each · at most ${Math.ceil(left)} s left`
}
