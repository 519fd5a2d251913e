import type { PipelineVersionShown } from '../../api/schema'

/** What a version is called where it is spoken of. */
export function titleOf({ number, name }: Pick<PipelineVersionShown, 'number' | 'name'>): string {
  if (number === 0) return 'as every project begins'
  return name ? `version ${String(number)}, ${name}` : `version ${String(number)}`
}
