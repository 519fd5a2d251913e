import { Box } from '@chakra-ui/react'

import type { TrainingShown } from '../../api/schema'
import { ChoiceField } from '../../parts/controls'
import { Heading, Section } from '../../parts/layout'
import { score } from '../../parts/words'
import { bestDev } from './epochs'
import { differences } from './formValues'
import { useSettingTitles } from './queries'

interface CompareProps {
  training: TrainingShown
  others: readonly TrainingShown[]
  other: TrainingShown | undefined
  onChoose: (id: number | null) => void
}

/** Compares a training with another one: settings that differ, data, and what came of it. */
export function Compare({ training, others, other, onChoose }: CompareProps) {
  const { titleOf } = useSettingTitles()
  if (others.length === 0) return null
  const rows: [string, string, string][] = other
    ? [
        ['dev F1', shownScore(training), shownScore(other)],
        ...differences(training.settings, other.settings),
        ...(training.made_from.data !== other.made_from.data ? ([['data', 'its own', 'another state']] as [string, string, string][]) : []),
      ]
    : []
  return (
    <Section>
      <Box maxW="72">
        <ChoiceField
          label="compare with"
          value={other ? String(other.id) : ''}
          options={[{ value: '', label: 'no other training' }, ...others.map((t) => ({ value: String(t.id), label: t.name }))]}
          onChange={(value) => onChoose(value ? Number(value) : null)}
        />
      </Box>
      {other && (
        <>
          <Heading>What differs</Heading>
          <Box as="table" css={{ '& th, & td': { textAlign: 'left', paddingRight: '28px', paddingBlock: '2px', verticalAlign: 'top' } }}>
            <Box as="thead" color="second" fontSize="small">
              <tr>
                <th aria-label="setting" />
                <th>{training.name}</th>
                <th>{other.name}</th>
              </tr>
            </Box>
            <tbody>
              {rows.map(([name, one, two]) => (
                <tr key={name}>
                  <Box as="td" color="second" title={name}>
                    {titleOf(name)}
                  </Box>
                  <td>{one}</td>
                  <td>{two}</td>
                </tr>
              ))}
            </tbody>
          </Box>
          {rows.length === 1 && <Box color="second">Settings and data are the same.</Box>}
        </>
      )}
    </Section>
  )
}

function shownScore(training: TrainingShown): string {
  const best = bestDev(training.epochs)
  return best === undefined ? '–' : score(best)
}
