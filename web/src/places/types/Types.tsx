import { Box, Flex, Grid } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'

import { api, body } from '../../api/client'
import { schemeQuery, useIsLead, useProject } from '../../api/project'
import type { SchemeShown, TypeShown } from '../../api/schema'
import { BadAct, ChoiceField, LinkAct, QuietAct } from '../../parts/controls'
import { Heading, Section, Title } from '../../parts/layout'
import { ResourceActs, ResourcePlace } from '../../parts/ResourcePlace'
import { Cap, Facts, TypeCode } from '../../parts/signs'
import { useAct } from '../../parts/useAct'
import { useResource } from '../../parts/useResource'
import { number, plural } from '../../parts/words'
import { Merge, Retire } from './Leaving'
import { TypeForm, VALUE_KINDS } from './TypeForm'
import { Versions } from './Versions'

/** The scheme: every entity type, its key and its definition. */
export function Types() {
  const project = useProject()
  const lead = useIsLead()
  const query = useQuery(schemeQuery(project))
  const rows = query.data?.types
  const types = useResource<TypeShown, SchemeShown>({
    place: 'types',
    one: 'type',
    query,
    queryKey: schemeQuery(project).queryKey,
    rows,
    within: (scheme, change) => ({ ...scheme, types: change(scheme.types) }),
    offers: lead ? ['add', 'edit'] : [],
  })
  const [form, setForm] = useState<'merge' | 'retire' | 'versions' | null>(null)
  const close = () => setForm(null)
  const { chosen } = types
  return (
    <ResourcePlace
      resource={types}
      heading="Entity types"
      figure="gold spans"
      height={27}
      label="entity types"
      row={(type) => <TypeRow type={type} />}
      right={<AboutScheme scheme={query.data} lead={lead} onVersions={() => setForm('versions')} />}
      empty={`An entity type says what is looked for: a code, a name, a key to mark it with, and a definition. There is none yet. ${lead ? 'Add the first one; texts come next.' : 'A lead adds them.'}`}
      form={(type) => <TypeForm types={rows ?? []} {...(type ? { type } : {})} onClose={types.close} onDone={types.saved} />}
      windows={
        <>
          {form === 'merge' && chosen && <Merge type={chosen} types={rows ?? []} onClose={close} onDone={types.pick} />}
          {form === 'retire' && chosen && <Retire type={chosen} onClose={close} onDone={() => types.deleted(chosen)} />}
          {form === 'versions' && query.data && <Versions present={query.data.version} lead={lead} onClose={close} />}
        </>
      }
    >
      {(type) => <TypeSheet type={type} types={rows ?? []} lead={lead} edit={<ResourceActs resource={types} />} onOpen={setForm} />}
    </ResourcePlace>
  )
}

const FORMS = [
  ['toml', 'TOML'],
  ['json', 'JSON'],
  ['turtle', 'SKOS, Turtle'],
  ['json-ld', 'SKOS, JSON-LD'],
] as const

function TypeRow({ type }: { type: TypeShown }) {
  return (
    <Grid templateColumns="auto var(--chakra-sizes-10) 1fr auto" gap="2" px="2.5" h="row" alignItems="center">
      <Cap>{type.key || '\u00a0'}</Cap>
      <TypeCode code={type.code} hue={type.hue} />
      <Box truncate>{type.name}</Box>
      <Box color="second" fontVariantNumeric="tabular-nums">
        {number(type.spans)}
      </Box>
    </Grid>
  )
}

function AboutScheme({ scheme, lead, onVersions }: { scheme: SchemeShown | undefined; lead: boolean; onVersions: () => void }) {
  const project = useProject()
  return (
    <>
      <Heading>The scheme</Heading>
      {scheme && (
        <>
          <Facts
            facts={[
              ['version', number(scheme.version)],
              ['types', number(scheme.types.length)],
              ['gold spans', number(scheme.types.reduce((sum, t) => sum + t.spans, 0))],
            ]}
          />
          <OverlapChoice overlap={scheme.overlap} lead={lead} />
        </>
      )}
      <Section>
        <Box color="second" mb="2">
          Every change makes a new version. Spans belong to the type, not to its code: a new code or name changes no span.
        </Box>
        <LinkAct onClick={onVersions}>all versions</LinkAct>
        {scheme && scheme.types.length > 0 && (
          <Flex gap="3" mt="2" wrap="wrap">
            download it as
            {FORMS.map(([form, label]) => (
              <Box key={form} asChild color="action" textDecoration="underline" textUnderlineOffset="3px">
                <a href={`/api/projects/${project}/scheme-file?form=${form}`} download>
                  {label}
                </a>
              </Box>
            ))}
          </Flex>
        )}
      </Section>
    </>
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
  const { queryKey } = schemeQuery(project)
  const choose = useAct(
    (wanted: Overlap) => body(api.PUT('/api/projects/{project}/types/overlap', { params: { path: { project } }, body: { overlap: wanted } })),
    { changes: queryKey },
  )
  return (
    <Section>
      <ChoiceField
        label="spans of one sentence"
        value={choose.of ?? overlap}
        options={OVERLAPS}
        disabled={!lead || choose.busy}
        help="Where spans stand apart, a new one takes the place of what it overlaps."
        onChange={(wanted) => choose.run(wanted as Overlap)}
      />
    </Section>
  )
}

interface TypeSheetProps {
  type: TypeShown
  types: readonly TypeShown[]
  lead: boolean
  edit: ReactNode
  onOpen: (form: 'merge' | 'retire') => void
}

function TypeSheet({ type, types, lead, edit, onOpen }: TypeSheetProps) {
  const parent = types.find((t) => t.id === type.parent)
  const kind = VALUE_KINDS.find(({ value }) => value === type.value_kind)
  return (
    <Box px="6" pt="4">
      <Title
        side={
          lead && (
            <>
              {edit}
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
          {type.key ? (
            <>
              key <Cap>{type.key}</Cap>
            </>
          ) : (
            'no key'
          )}
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
