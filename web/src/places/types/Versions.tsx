import { Box, Flex, Grid, Table } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { useProject } from '../../api/project'
import type { ComparisonShown, VersionShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, ChoiceField, QuietAct } from '../../parts/controls'
import { tell } from '../../parts/notes'
import { useAct } from '../../parts/useAct'
import { Window } from '../../parts/Window'
import { moment, plural } from '../../parts/words'
import { comparisonQuery, versionsQuery } from './queries'

const STEPS: Record<string, string> = { added: 'added', changed: 'changed', retired: 'retired', restored: 'brought back' }

/** What became of the types, in words. */
export function stepWords({ step }: VersionShown): string {
  const parts = step.map(({ what, code, into }) =>
    what === 'overlap' ? 'overlap of spans changed' : what === 'merged' ? `${code ?? '?'} merged into ${into ?? '?'}` : `${code ?? '?'} ${STEPS[what] ?? what}`,
  )
  return parts.length > 3 ? `${parts.slice(0, 3).join(', ')} and ${plural(parts.length - 3, 'more change', 'more changes')}` : parts.join(', ')
}

/** Every version of the scheme, how two of them differ, and the way back to one. */
export function Versions({ present, lead, onClose }: { present: number; lead: boolean; onClose: () => void }) {
  const project = useProject()
  const query = useQuery(versionsQuery(project))
  const [chosen, setChosen] = useState<number | null>(null)
  const before = chosen ?? Math.max(1, present - 1)
  const [after, setAfter] = useState(present)
  return (
    <Window title="Versions of the scheme" wide reads onClose={onClose} footer={<QuietAct onClick={onClose}>close</QuietAct>}>
      <Ask query={query}>
        {(versions: VersionShown[]) =>
          versions.length === 0 ? (
            <Box pb="2">There is no version yet; the first type makes one.</Box>
          ) : (
            <Grid templateColumns="minmax(0, 2fr) minmax(0, 3fr)" gap="6">
              <Box maxH="96" overflowY="auto" role="list" aria-label="versions" tabIndex={0}>
                {versions.map((version) => (
                  <Box key={version.number} role="listitem" py="1.5" borderTopWidth="1px" borderColor="hairline">
                    <Flex justify="space-between" gap="2">
                      <b>
                        {version.number}
                        {version.number === present ? ' · present' : ''}
                      </b>
                      <Box color="second">
                        {version.who} {moment(version.at)}
                      </Box>
                    </Flex>
                    <Box fontSize="small">{stepWords(version)}</Box>
                  </Box>
                ))}
              </Box>
              <Compared versions={versions} before={before} after={after} onBefore={setChosen} onAfter={setAfter} lead={lead} present={present} onClose={onClose} />
            </Grid>
          )
        }
      </Ask>
    </Window>
  )
}

interface ComparedProps {
  versions: readonly VersionShown[]
  before: number
  after: number
  present: number
  lead: boolean
  onBefore: (number: number) => void
  onAfter: (number: number) => void
  onClose: () => void
}

function Compared({ versions, before, after, present, lead, onBefore, onAfter, onClose }: ComparedProps) {
  const project = useProject()
  const query = useQuery(comparisonQuery(project, before, after))
  const options = versions.map(({ number }) => ({ value: String(number), label: `version ${number}` }))
  const restore = useAct(
    () => api.POST('/api/projects/{project}/types/versions/{number}/restore', { params: { path: { project, number: before } }, body: { scheme: present } }),
    {
      changes: 'all',
      onDone: () => {
        tell(`The scheme is what it was in version ${before}.`)
        onClose()
      },
    },
  )
  return (
    <Box>
      <Grid templateColumns="1fr 1fr" gap="3">
        <ChoiceField label="from" value={String(before)} options={options} onChange={(value) => onBefore(Number(value))} />
        <ChoiceField label="to" value={String(after)} options={options} onChange={(value) => onAfter(Number(value))} />
      </Grid>
      <Ask query={query}>{(comparison: ComparisonShown) => <Differences comparison={comparison} />}</Ask>
      {lead && before !== present && (
        <Box mt="4">
          <Act loading={restore.busy} onClick={() => restore.run()}>
            restore version {before}
          </Act>
          <Box color="second" fontSize="small" mt="1">
            This makes a new version. Types that came later are retired, with their spans; types that were retired come back without theirs.
          </Box>
        </Box>
      )}
    </Box>
  )
}

const shown = (value: string | number | string[] | null): string => {
  if (Array.isArray(value)) return value.join('; ') || '–'
  return value === null || value === '' ? '–' : String(value)
}

function Differences({ comparison }: { comparison: ComparisonShown }) {
  const { overlap_before: was, overlap_after: is, differences } = comparison
  if (differences.length === 0 && was === is) return <Box>The two are the same.</Box>
  return (
    <Table.Root size="sm" aria-label="differences">
      <Table.Body>
        {was !== is && (
          <Table.Row>
            <Table.Cell ps="0">spans of one sentence</Table.Cell>
            <Table.Cell>
              {was} → {is}
            </Table.Cell>
          </Table.Row>
        )}
        {differences.map((one) => (
          <Table.Row key={one.code} verticalAlign="top">
            <Table.Cell ps="0">
              <b>{one.code}</b> {one.what}
            </Table.Cell>
            <Table.Cell>
              {one.fields.map(({ name, was: from, now: to }) => (
                <Box key={name}>
                  {name.replaceAll('_', ' ')}: {shown(from)} → {shown(to)}
                </Box>
              ))}
            </Table.Cell>
          </Table.Row>
        ))}
      </Table.Body>
    </Table.Root>
  )
}
