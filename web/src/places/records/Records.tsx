import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'

import { api } from '../../api/client'
import { figuresQuery, useIsLead, useProject } from '../../api/project'
import type { RecordPage, RecordShown, TemplateShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, LinkAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Empty, Heading, Section } from '../../parts/layout'
import { ResourceActs, ResourceList, ResourceSheet, ResourceWindows } from '../../parts/ResourcePlace'
import { stepped } from '../../parts/RowList'
import { Facts, TypeCode } from '../../parts/signs'
import { useAct } from '../../parts/useAct'
import { usePages } from '../../parts/usePages'
import { ALL_OFFERS, useResource } from '../../parts/useResource'
import { number, plural } from '../../parts/words'
import { Working } from '../../parts/Working'
import { Narrowing } from './Narrowing'
import { downloadAddress, recordsQuery, templatesQuery, type Wanted } from './queries'
import { RecordSheet } from './RecordSheet'
import { RecordTable } from './RecordTable'
import { SchemaWindow } from './SchemaWindow'
import { TemplateForm } from './TemplateForm'

const rowsOf = (page: RecordPage) => page.records
const NOTHING: Wanted = {}
const NO_ROWS: readonly RecordShown[] = []

/** Records assembled per text by a template: look through them, take them out. */
export function Records() {
  const project = useProject()
  const lead = useIsLead()
  const query = useQuery(templatesQuery(project))
  const { queryKey } = templatesQuery(project)
  const templates = useResource<TemplateShown, TemplateShown[]>({ place: 'records', one: 'template', query, queryKey, rows: query.data, offers: lead ? ALL_OFFERS : [] })
  const { chosen } = templates
  const running = useQuery(figuresQuery(project)).data?.running.find((job) => job.kind === 'assembly' || job.kind === 'records learning')
  const assemble = useAct(() => api.POST('/api/projects/{project}/records/assembly', { params: { path: { project } } }), { changes: 'records' })
  const learn = useAct(() => api.POST('/api/projects/{project}/records/learning', { params: { path: { project } } }), { changes: 'records' })
  const [bringing, setBringing] = useState(false)
  // What is wanted of one template's records says nothing of another's, whose fields are others.
  const [narrowed, setNarrowed] = useState<{ template: number; wanted: Wanted }>({ template: 0, wanted: {} })
  const wanted = chosen && narrowed.template === chosen.id ? narrowed.wanted : NOTHING
  const setWanted = (next: Wanted) => chosen && setNarrowed({ template: chosen.id, wanted: next })
  useKeys(
    lead
      ? [
          { keys: ['a'], caps: ['a'], label: 'assemble', run: () => assemble.run() },
          { keys: ['l'], caps: ['l'], label: 'learn from signed records', run: () => learn.run(), quiet: true },
        ]
      : [],
  )
  const act = lead && (
    <Act onClick={() => assemble.run()} loading={running !== undefined || assemble.busy} loadingText="assembling">
      assemble records
    </Act>
  )
  const left = (
    <ResourceList
      resource={templates}
      heading="Templates"
      figure="records"
      height={44}
      label="record templates"
      row={(template) => <TemplateRow template={template} />}
      below={
        chosen && (
          <Box overflowY="auto" flex="4 1 0" minH="0" borderTopWidth="1px" borderColor="hairline" pt="2">
            <Narrowing key={chosen.id} template={chosen} wanted={wanted} onWant={setWanted} />
            <Fields template={chosen} />
          </Box>
        )
      }
      act={
        lead && (
          <Flex gap="2" direction="column" align="flex-start">
            {running && <Working job={running} label="texts" mayStop />}
            {act}
            {chosen && chosen.signed > 0 && (
              <QuietAct onClick={() => learn.run()} disabled={running !== undefined || learn.busy}>
                learn from signed records
              </QuietAct>
            )}
            <Flex gap="1" wrap="wrap">
              <QuietAct onClick={() => templates.open('add')}>new template</QuietAct>
              <QuietAct onClick={() => setBringing(true)}>from a JSON Schema</QuietAct>
            </Flex>
          </Flex>
        )
      }
    />
  )
  const empty = 'A record template says which fields a record has and which types fill them. There is none yet.'
  return (
    <>
      {chosen ? (
        <Sheet key={chosen.id} left={left} template={chosen} act={act} acts={<ResourceActs resource={templates} />} wanted={wanted} onWant={setWanted} />
      ) : (
        <Columns left={left}>
          <ResourceSheet resource={templates} empty={empty}>
            {() => null}
          </ResourceSheet>
        </Columns>
      )}
      {bringing && (
        <SchemaWindow
          onClose={() => setBringing(false)}
          onDone={(made) => {
            setBringing(false)
            templates.saved(made)
          }}
        />
      )}
      <ResourceWindows
        resource={templates}
        open={chosen}
        form={(template) => <TemplateForm {...(template ? { template } : {})} onClose={templates.close} onDone={templates.saved} />}
        onDelete={(template) => api.DELETE('/api/projects/{project}/records/templates/{template_id}', { params: { path: { project, template_id: template.id } } })}
        loss={(template) => ({
          name: template.name,
          act: `delete it with ${plural(template.records, 'record')}`,
          says: `The template goes with its ${plural(template.records, 'assembled record')}. Spans and texts stay as they are.`,
        })}
      />
    </>
  )
}

function TemplateRow({ template }: { template: TemplateShown }) {
  return (
    <Box px="2.5" py="1">
      <Flex justify="space-between" gap="2">
        <Box fontWeight="bold" truncate>
          {template.name}
        </Box>
        <Box fontVariantNumeric="tabular-nums">{number(template.records)}</Box>
      </Flex>
      <Box fontSize="small" color="second">
        {template.anchor ? `one for each ${template.anchor}` : `one for each ${template.scope}`}
        {template.learnt_records > 0 && ` · learnt from ${number(template.learnt_records)}`}
      </Box>
    </Box>
  )
}

interface SheetProps {
  left: ReactNode
  template: TemplateShown
  act: ReactNode
  acts: ReactNode
  wanted: Wanted
  onWant: (wanted: Wanted) => void
}

function Sheet({ left, template, act, acts, wanted, onWant }: SheetProps) {
  const project = useProject()
  const [picked, setPicked] = useState<number | null>(null)
  const query = useInfiniteQuery(recordsQuery(project, template.id, wanted))
  const { rows: records = NO_ROWS, rest } = usePages(query, rowsOf)
  const chosen = records.find((r) => r.id === picked) ?? records[0]
  const narrowed = Boolean(wanted.look || wanted.field || wanted.unsigned)
  const step = (by: number) => setPicked(stepped(records, (r) => r.id, chosen?.id ?? null, by)?.id ?? null)
  useKeys([
    { keys: ['.'], caps: [',', '.'], label: 'record', run: () => step(1), repeats: true },
    { keys: [','], caps: [','], label: 'previous record', run: () => step(-1), quiet: true, repeats: true },
  ])
  return (
    <Columns left={left} right={chosen && <RecordSheet key={chosen.id} id={chosen.id} template={template} part="values" />}>
      <Flex direction="column" h="full" px="6" pt="4">
        {chosen && (
          <Box maxH="45%" overflowY="auto" flexShrink="0">
            <RecordSheet id={chosen.id} template={template} part="staves" />
          </Box>
        )}
        <Flex justify="space-between" align="baseline" gap="4" wrap="wrap" borderTopWidth={chosen ? '1px' : '0'} borderColor="hairline" pt="2.5" mb="2">
          <Flex gap="4" align="baseline">
            <Box as="h1" fontFamily="heading" fontSize="context">
              {template.name}
            </Box>
            <span>{plural(template.records, 'record')}</span>
            <span>{number(template.open)} open</span>
            <span>{number(template.signed)} signed</span>
            {narrowed && <QuietAct onClick={() => onWant({})}>show all</QuietAct>}
          </Flex>
          <Flex gap="3" align="baseline">
            {template.records > 0 && (
              <>
                <LinkAct asChild>
                  <a href={downloadAddress(project, template.id, 'csv')} download>
                    CSV
                  </a>
                </LinkAct>
                <LinkAct asChild>
                  <a href={downloadAddress(project, template.id, 'jsonl')} download>
                    JSON Lines
                  </a>
                </LinkAct>
              </>
            )}
            <LinkAct asChild>
              <a href={downloadAddress(project, template.id, 'schema')} download={`${template.name}.schema.json`}>
                JSON Schema
              </a>
            </LinkAct>
            {acts}
          </Flex>
        </Flex>
        {template.stale && (
          <Box color="gold" fontSize="small" mb="2">
            Something has changed since these were assembled. Assemble again to bring them up to date.
          </Box>
        )}
        <Ask query={query}>
          {() =>
            records.length > 0 ? (
              <RecordTable template={template} records={records} chosen={chosen?.id ?? null} onChoose={(r) => setPicked(r.id)} rest={rest} wanted={wanted} onWant={onWant} />
            ) : (
              <Empty act={act}>
                {narrowed
                  ? 'No record is like that. Show all to see the others.'
                  : 'Records are made from gold where a sentence is signed, and from the evidence elsewhere. None has been assembled with this template.'}
              </Empty>
            )
          }
        </Ask>
      </Flex>
    </Columns>
  )
}

function Fields({ template }: { template: TemplateShown }) {
  const { hues } = useScheme()
  return (
    <Box px="3" pb="3" overflowY="auto">
      <Section first>
        <Heading>Fields</Heading>
        {template.description && (
          <Box color="second" mb="2">
            {template.description}
          </Box>
        )}
        <Facts
          facts={template.fields.map((field) => [
            `${field.name}${field.name === template.anchor ? ' (anchor)' : ''}`,
            <Box key={field.name} as="span">
              {field.description && (
                <Box as="span" color="second" fontSize="small">
                  {field.description}
                </Box>
              )}
              {field.types.map((code) => (
                <Box as="span" key={code} ml="1">
                  <TypeCode code={code} hue={hues.get(code)} />
                </Box>
              ))}
            </Box>,
          ])}
        />
      </Section>
    </Box>
  )
}
