import { Box, Flex, Grid } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, body, messageOf } from '../../api/client'
import { schemeQuery, useIsLead, useProject } from '../../api/project'
import type { TypeShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, BadAct, ChoiceField, LinkAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Empty, Heading, Section, Title } from '../../parts/layout'
import { RowList } from '../../parts/RowList'
import { Cap, Facts, TypeCode } from '../../parts/signs'
import { usePick } from '../../parts/usePick'
import { number, plural } from '../../parts/words'
import { Merge, Retire } from './Leaving'
import { TypeForm, VALUE_KINDS } from './TypeForm'
import { Versions } from './Versions'

/** The scheme: every entity type, its key and its definition. */
export function Types() {
  const project = useProject()
  const lead = useIsLead()
  const query = useQuery(schemeQuery(project))
  const types = query.data?.types
  const { chosen, pick } = usePick('types', types, 'type')
  const [form, setForm] = useState<'new' | 'change' | 'merge' | 'retire' | 'versions' | null>(null)
  useKeys(
    lead
      ? [
          { keys: ['n'], caps: ['n'], label: 'new type', run: () => setForm('new') },
          { keys: ['e'], caps: ['e'], label: 'change', run: () => chosen && setForm('change') },
        ]
      : [],
  )
  const left = (
    <>
      <Box px="3" pt="3">
        <Heading side={<Box fontSize="tiny" color="second">gold spans</Box>}>Entity types</Heading>
      </Box>
      <RowList rows={types ?? []} keyOf={(t) => t.id} chosen={chosen?.id ?? null} onChoose={pick} height={27} label="entity types">
        {(type) => (
          <Grid templateColumns="auto var(--chakra-sizes-10) 1fr auto" gap="2" px="2.5" h="row" alignItems="center">
            <Cap>{type.key}</Cap>
            <TypeCode code={type.code} hue={type.hue} />
            <Box truncate>{type.name}</Box>
            <Box color="second" fontVariantNumeric="tabular-nums">
              {number(type.spans)}
            </Box>
          </Grid>
        )}
      </RowList>
      {lead && (
        <Box p="3" borderTopWidth="1px" borderColor="hairline">
          <Act onClick={() => setForm('new')}>new type</Act>
        </Box>
      )}
    </>
  )
  return (
    <Columns
      left={left}
      right={
        <>
          <Heading>The scheme</Heading>
          {query.data && (
            <Facts
              facts={[
                ['version', number(query.data.version)],
                ['types', number(query.data.types.length)],
                ['gold spans', number(query.data.types.reduce((sum, t) => sum + t.spans, 0))],
              ]}
            />
          )}
          {query.data && <OverlapChoice overlap={query.data.overlap} lead={lead} />}
          <Section>
            <Box color="second" mb="2">
              Every change makes a new version. Spans belong to the type, not to its code: a new code or name changes no span.
            </Box>
            <LinkAct onClick={() => setForm('versions')}>all versions</LinkAct>
            {query.data && query.data.types.length > 0 && (
              <Flex gap="3" mt="2">
                download it as
                {(['toml', 'json'] as const).map((form) => (
                  <Box key={form} asChild color="action" textDecoration="underline" textUnderlineOffset="3px">
                    <a href={`/api/projects/${project}/scheme-file?form=${form}`} download>
                      {form.toUpperCase()}
                    </a>
                  </Box>
                ))}
              </Flex>
            )}
          </Section>
        </>
      }
    >
      <Ask query={query}>
        {() =>
          chosen ? (
            <TypeSheet type={chosen} types={types ?? []} lead={lead} onOpen={setForm} />
          ) : (
            <Empty act={lead && <Act onClick={() => setForm('new')}>new type</Act>}>
              An entity type says what is looked for: a code, a name, a key to mark it with, and a definition. There is none
              yet. {lead ? 'Add the first one; texts come next.' : 'A lead adds them.'}
            </Empty>
          )
        }
      </Ask>
      {form === 'new' && <TypeForm types={types ?? []} onClose={() => setForm(null)} onDone={pick} />}
      {form === 'change' && chosen && <TypeForm types={types ?? []} type={chosen} onClose={() => setForm(null)} onDone={pick} />}
      {form === 'merge' && chosen && <Merge type={chosen} types={types ?? []} onClose={() => setForm(null)} onDone={pick} />}
      {form === 'retire' && chosen && <Retire type={chosen} onClose={() => setForm(null)} onDone={() => pick(null)} />}
      {form === 'versions' && query.data && <Versions present={query.data.version} lead={lead} onClose={() => setForm(null)} />}
    </Columns>
  )
}

const OVERLAPS = [
  { value: 'apart', label: 'stand apart' },
  { value: 'nested', label: 'may be nested' },
  { value: 'free', label: 'may overlap freely' },
] as const

type Overlap = (typeof OVERLAPS)[number]['value']

/** How spans of one sentence may stand to each other. */
function OverlapChoice({ overlap, lead }: { overlap: Overlap; lead: boolean }) {
  const project = useProject()
  const client = useQueryClient()
  const [error, setError] = useState<string>()
  const choose = async (wanted: string) => {
    setError(undefined)
    try {
      await body(
        api.PUT('/api/projects/{project}/types/overlap', {
          params: { path: { project } },
          body: { overlap: wanted as Overlap },
        }),
      )
      await client.invalidateQueries({ queryKey: schemeQuery(project).queryKey })
    } catch (problem) {
      setError(messageOf(problem))
    }
  }
  return (
    <Section>
      <ChoiceField
        label="spans of one sentence"
        value={overlap}
        options={OVERLAPS}
        disabled={!lead}
        error={error}
        help="Where spans stand apart, a new one takes the place of what it overlaps."
        onChange={(wanted) => void choose(wanted)}
      />
    </Section>
  )
}

interface TypeSheetProps {
  type: TypeShown
  types: readonly TypeShown[]
  lead: boolean
  onOpen: (form: 'change' | 'merge' | 'retire') => void
}

function TypeSheet({ type, types, lead, onOpen }: TypeSheetProps) {
  const parent = types.find((t) => t.id === type.parent)
  const kind = VALUE_KINDS.find(({ value }) => value === type.value_kind)
  return (
    <Box px="6" pt="4">
      <Title
        side={
          lead && (
            <>
              <Act onClick={() => onOpen('change')}>change</Act>
              {types.length > 1 && <QuietAct onClick={() => onOpen('merge')}>merge</QuietAct>}
              <BadAct onClick={() => onOpen('retire')}>retire</BadAct>
            </>
          )
        }
      >
        <TypeCode code={type.code} hue={type.hue} /> {type.name}
      </Title>
      <Flex gap="6" color="second" mb="4" wrap="wrap">
        <span>
          key <Cap>{type.key}</Cap>
        </span>
        <span>{plural(type.spans, 'gold span')}</span>
        {parent && (
          <span>
            a kind of <TypeCode code={parent.code} hue={parent.hue} /> {parent.name}
          </span>
        )}
        {kind && kind.value !== 'none' && <span>values are {kind.label}</span>}
      </Flex>
      <Box fontFamily="text" fontSize="context" maxW="3xl" mb="4">
        {type.definition || 'There is no definition yet; annotators will read it at the Desk.'}
      </Box>
      <Grid templateColumns="1fr 1fr" gap="6" maxW="4xl">
        <Examples title="Counts" tone="good" examples={type.counts} />
        <Examples title="Does not count" tone="bad" examples={type.counts_not} />
      </Grid>
      {type.rulings.length > 0 && (
        <Box maxW="4xl" mt="5">
          <Examples title="Rulings on hard cases" tone="ink" examples={type.rulings} />
        </Box>
      )}
    </Box>
  )
}

function Examples({ title, tone, examples }: { title: string; tone: string; examples: readonly string[] }) {
  return (
    <Box>
      <Box fontWeight="bold" color={tone} mb="1.5">
        {title}
      </Box>
      {examples.length === 0 && <Box color="second">no example yet</Box>}
      {examples.map((example) => (
        <Box key={example} py="1.5" borderTopWidth="1px" borderColor="hairline">
          {example}
        </Box>
      ))}
    </Box>
  )
}
