import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'

import { api } from '../../api/client'
import { figuresQuery, useIsLead, useProject } from '../../api/project'
import type { RecordPage, RecordShown, TemplateShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, CheckField, LinkAct, QuietAct } from '../../parts/controls'
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
import { downloadAddress, recordsQuery, templatesQuery } from './queries'
import { RecordSheet } from './RecordSheet'
import { RecordTable } from './RecordTable'
import { TemplateForm } from './TemplateForm'

const rowsOf = (page: RecordPage) => page.records
const NO_ROWS: readonly RecordShown[] = []

/** Records assembled per text by a template: look through them, take them out. */
export function Records() {
  const project = useProject()
  const lead = useIsLead()
  const query = useQuery(templatesQuery(project))
  const { queryKey } = templatesQuery(project)
  const templates = useResource<TemplateShown, TemplateShown[]>({ place: 'records', one: 'template', query, queryKey, rows: query.data, offers: lead ? ALL_OFFERS : [] })
  const { chosen } = templates
  const running = useQuery(figuresQuery(project)).data?.running.find((job) => job.kind === 'assembly')
  const assemble = useAct(() => api.POST('/api/projects/{project}/records/assembly', { params: { path: { project } } }), { changes: 'records' })
  useKeys(lead ? [{ keys: ['a'], caps: ['a'], label: 'assemble', run: () => assemble.run() }] : [])
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
      below={chosen && <Fields template={chosen} />}
      act={
        lead && (
          <Flex gap="2" direction="column" align="flex-start">
            {running && <Working job={running} label="texts" mayStop />}
            {act}
            <QuietAct onClick={() => templates.open('add')}>new template</QuietAct>
          </Flex>
        )
      }
    />
  )
  const empty = 'A record template says which fields a record has and which types fill them. There is none yet.'
  return (
    <>
      {chosen ? (
        <Sheet key={chosen.id} left={left} template={chosen} act={act} acts={<ResourceActs resource={templates} />} />
      ) : (
        <Columns left={left}>
          <ResourceSheet resource={templates} empty={empty}>
            {() => null}
          </ResourceSheet>
        </Columns>
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
        one for each {template.anchor}
      </Box>
    </Box>
  )
}

interface SheetProps {
  left: ReactNode
  template: TemplateShown
  act: ReactNode
  acts: ReactNode
}

function Sheet({ left, template, act, acts }: SheetProps) {
  const project = useProject()
  const [onlyOpen, setOnlyOpen] = useState(false)
  const [wanted, setWanted] = useState<number | null>(null)
  const query = useInfiniteQuery(recordsQuery(project, template.id, onlyOpen))
  const { rows: records = NO_ROWS, rest } = usePages(query, rowsOf)
  const chosen = records.find((r) => r.id === wanted) ?? records[0]
  const step = (by: number) => setWanted(stepped(records, (r) => r.id, chosen?.id ?? null, by)?.id ?? null)
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
            <CheckField label="open only" checked={onlyOpen} onChange={setOnlyOpen} />
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
              <RecordTable template={template} records={records} chosen={chosen?.id ?? null} onChoose={(r) => setWanted(r.id)} rest={rest} />
            ) : (
              <Empty act={act}>
                {onlyOpen
                  ? 'No record misses a required field.'
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
        <Facts
          facts={template.fields.map((field) => [
            `${field.name}${field.name === template.anchor ? ' (anchor)' : ''}`,
            <Box key={field.name} as="span">
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
