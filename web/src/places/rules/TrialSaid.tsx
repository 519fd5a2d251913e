import type { TrialShown } from '../../api/schema'
import { number, plural } from '../../parts/words'

interface TrialSaidProps {
  trial: Pick<TrialShown, 'finds' | 'right' | 'judged' | 'takes'>
  /** Where it was tried: "the project’s texts". */
  where: string
}

/** What a rule finds, or takes away, and how that stands against gold. */
export function TrialSaid({ trial: { finds, right, judged, takes }, where }: TrialSaidProps) {
  return (
    <>
      {takes ? 'It takes away' : 'It finds'} {plural(finds, 'span')} in {where}
      {judged > 0 && `; of ${plural(judged, 'span')} in signed sentences ${number(right)} ${takes ? 'are not gold' : 'are right'}`}.
    </>
  )
}

/** Where a trial was made. */
export const tried = ({ all, texts }: Pick<TrialShown, 'all' | 'texts'>) => (all ? 'the project’s texts' : `the first ${plural(texts, 'text')} of the project`)
