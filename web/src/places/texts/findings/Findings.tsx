import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { type ReactNode, useDeferredValue, useMemo, useState } from 'react'

import { useProject } from '../../../api/project'
import type { SummaryShown, TypeSummaryShown } from '../../../api/schema'
import { useScheme } from '../../../api/useScheme'
import { Ask } from '../../../parts/Ask'
import { ChoiceField, QuietAct } from '../../../parts/controls'
import { useKeys } from '../../../parts/keys'
import { Columns, Title } from '../../../parts/layout'
import { RowList } from '../../../parts/RowList'
import { TypeCode } from '../../../parts/signs'
import { number, plural } from '../../../parts/words'
import { wishOf } from '../filter'
import { FilterLine } from '../FilterLine'
import { TextsTabs } from '../TextsTabs'
import { useTextFilter } from '../useTextFilter'
import { Comparison } from './Comparison'
import { InContext } from './InContext'
import { LANES } from './lanes'
import { Matrix } from './Matrix'
import { OverTime } from './OverTime'
import { findingsQuery, type FindingsWish } from './queries'
import { Values } from './Values'

const VIEWS = ['values', 'over time', 'in context', 'together', 'comparison'] as const
type View = (typeof VIEWS)[number]

interface Listed extends TypeSummaryShown {
  id: number
}

/** What is in the texts: the values of each type, how they spread and stand together, and where they are. */
export function Findings() {
  const project = useProject()
  const texts = useTextFilter()
  const { types, hues } = useScheme()
  const [lane, setLane] = useState<string>('gold')
  const [code, setCode] = useState<string | null>(null)
  const [view, setView] = useState<View>('values')
  // A letter more of what is searched for is not waited for.
  const asked = useDeferredValue(JSON.stringify({ ...wishOf(texts.filter), lane }))
  const wish = useMemo(() => JSON.parse(asked) as FindingsWish, [asked])
  const query = useQuery(findingsQuery(project, wish))
  const rows: Listed[] = (query.data?.types ?? []).map((one, id) => ({ ...one, id }))
  const open = rows.find((row) => row.type === code) ?? rows[0]
  const name = (of: string) => types.find((type) => type.code === of)?.name ?? of
  useKeys(VIEWS.map((one, i) => ({ keys: [String(i + 1)], caps: [String(i + 1)], label: one, run: () => setView(one), quiet: true })))
  const views: Record<View, (type: string) => ReactNode> = {
    values: (type) => <Values key={`${type} ${asked}`} type={type} wish={wish} />,
    'over time': (type) => <OverTime key={type} type={type} wish={wish} />,
    'in context': (type) => <InContext key={type} type={type} wish={wish} />,
    together: (type) => <Matrix key={type} type={type} types={types} wish={wish} />,
    comparison: (type) => <Comparison key={type} type={type} name={name(type)} wish={wish} filter={texts.filter} />,
  }
  return (
    <Columns
      left={
        <>
          <TextsTabs at="/findings" search={texts.search} />
          <FilterLine texts={texts} counts={query.data} />
          <Box px="3" pt="2">
            <ChoiceField label="found by" value={lane} help={sampled(query.data)} options={LANES.map((one) => ({ ...one, label: one.label.toLowerCase() }))} onChange={setLane} />
          </Box>
          <RowList rows={rows} keyOf={(row) => row.id} chosen={open?.id ?? null} onChoose={(row) => setCode(row.type)} height={46} label="types">
            {(row) => <TypeRow row={row} name={name(row.type)} hue={hues.get(row.type)} />}
          </RowList>
        </>
      }
    >
      <Ask query={query}>
        {() =>
          open ? (
            <Box px="6" pt="4" pb="8" aria-busy={query.isPlaceholderData || undefined}>
              <Title>
                <TypeCode code={open.type} hue={hues.get(open.type)} /> {name(open.type)}{' '}
                <Box as="span" fontSize="ui" fontFamily="body" color="second">
                  {plural(open.spans, 'span')} of {plural(open.values, 'value')} in {plural(open.texts, 'text')}
                </Box>
              </Title>
              <Flex role="group" aria-label="view" gap="1" mb="3" wrap="wrap">
                {VIEWS.map((one) => (
                  <QuietAct key={one} aria-pressed={view === one} bg={view === one ? 'chosen' : undefined} onClick={() => setView(one)}>
                    {one}
                  </QuietAct>
                ))}
              </Flex>
              {open.spans === 0 && view !== 'in context' && view !== 'comparison' ? (
                <Box color="second">
                  {lane === 'gold' ? 'No signed sentence of these texts has a span of this type.' : 'This source finds no span of this type in these texts. Evidence is not shown in texts that are annotated without it.'}
                </Box>
              ) : (
                views[view](open.type)
              )}
            </Box>
          ) : (
            <Box p="5" color="second">
              The scheme has no types yet. Findings are about spans, and every span has a type.
            </Box>
          )
        }
      </Ask>
    </Columns>
  )
}

/** Of a large corpus a source's findings are counted in a sample. */
const sampled = (told: SummaryShown | undefined) =>
  told && told.looked < told.found ? `counted in a sample of ${plural(told.looked, 'text')}` : undefined

function TypeRow({ row, name, hue }: { row: Listed; name: string; hue: number | undefined }) {
  return (
    <Box px="2.5" py="1">
      <Flex justify="space-between" gap="2">
        <Box truncate>
          <TypeCode code={row.type} hue={hue} /> {name}
        </Box>
        <Box fontVariantNumeric="tabular-nums" whiteSpace="nowrap" title={`${plural(row.spans, 'span')} of ${plural(row.values, 'value')}`}>
          {number(row.spans)} · {number(row.values)}
        </Box>
      </Flex>
      <Box color="second" fontSize="small" truncate>
        {row.examples.map((one) => one.value).join(', ') || 'none'}
      </Box>
    </Box>
  )
}
