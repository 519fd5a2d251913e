import { Box, Flex } from '@chakra-ui/react'
import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'

import { api } from '../../api/client'
import { figuresQuery, useIsLead, useProject } from '../../api/project'
import type { TemplateShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, BadAct, CheckField, LinkAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Columns, Empty, Heading, Section } from '../../parts/layout'
import { tellError } from '../../parts/notes'
import { RowList, stepped } from '../../parts/RowList'
import { Facts, Meter, TypeCode } from '../../parts/signs'
import { usePick } from '../../parts/usePick'
import { Sure } from '../../parts/Window'
import { number, plural } from '../../parts/words'
import { downloadAddress, recordsQuery, templatesQuery } from './queries'
import { RecordSheet } from './RecordSheet'
import { RecordTable } from './RecordTable'
import { TemplateForm } from './TemplateForm'

/** Records assembled per text by a template: look through them, take them out. */
export function Records() {
  const project = useProject()
  const lead = useIsLead()
  const query = useQuery(templatesQuery(project))
  const { chosen: template, pick } = usePickedTemplate(query.data)
  const [form, setForm] = useState<'new' | 'change' | 'remove' | null>(null)
  const running = useQuery(figuresQuery(project)).data?.running.find((job) => job.kind === 'assembly')
  const assemble = async () => {
    try {
      await api.POST('/api/projects/{project}/records/assembly', { params: { path: { project } } })
    } catch (error) {
      tellError(error)
    }
  }
  const stop = async () => {
    if (!running) return
    try {
      await api.POST('/api/projects/{project}/jobs/{job_id}/stop', { params: { path: { project, job_id: running.id } } })
    } catch (error) {
      tellError(error)
    }
  }
  useKeys(
    lead
      ? [
          { keys: ['a'], caps: ['a'], label: 'assemble', run: () => void assemble() },
          { keys: ['n'], caps: ['n'], label: 'new template', run: () => setForm('new') },
          { keys: ['e'], caps: ['e'], label: 'change the template', run: () => template && setForm('change') },
        ]
      : [],
  )
  const act = lead && (
    <Act onClick={() => void assemble()} loading={running !== undefined} loadingText="assembling">
      assemble records
    </Act>
  )
  const left = (
    <>
      <Box px="3" pt="3">
        <Heading side={<Box fontSize="tiny" color="second">records</Box>}>Templates</Heading>
      </Box>
      <RowList rows={query.data ?? []} keyOf={(t) => t.id} chosen={template?.id ?? null} onChoose={pick} height={44} label="record templates">
        {(row) => (
          <Box px="2.5" py="1">
            <Flex justify="space-between" gap="2">
              <Box fontWeight="bold" truncate>
                {row.name}
              </Box>
              <Box fontVariantNumeric="tabular-nums">{number(row.records)}</Box>
            </Flex>
            <Box fontSize="small" color="second">
              one for each {row.anchor}
            </Box>
          </Box>
        )}
      </RowList>
      {template && <Fields template={template} />}
      {lead && (
        <Flex p="3" gap="2" borderTopWidth="1px" borderColor="hairline" direction="column" align="flex-start">
          {running && (
            <Flex gap="2" align="center" w="full">
              <Box flex="1">
                <Meter done={running.done} all={running.total} label="texts" />
              </Box>
              <BadAct onClick={() => void stop()}>stop</BadAct>
            </Flex>
          )}
          {act}
          <QuietAct onClick={() => setForm('new')}>new template</QuietAct>
        </Flex>
      )}
    </>
  )
  return (
    <>
      <Ask query={query}>
        {() =>
          template ? (
            <Sheet
              key={template.id}
              left={left}
              template={template}
              lead={lead}
              act={act}
              onChange={() => setForm('change')}
              onRemove={() => setForm('remove')}
            />
          ) : (
            <Columns left={left}>
              <Empty act={lead && <Act onClick={() => setForm('new')}>new template</Act>}>
                A record template says which fields a record has and which types fill them. There is none yet.
              </Empty>
            </Columns>
          )
        }
      </Ask>
      {form === 'new' && <TemplateForm onClose={() => setForm(null)} onDone={pick} />}
      {form === 'change' && template && <TemplateForm template={template} onClose={() => setForm(null)} onDone={pick} />}
      {form === 'remove' && template && (
        <Sure
          title={`Remove the template “${template.name}”?`}
          act={`remove with ${plural(template.records, 'record')}`}
          onClose={() => setForm(null)}
          onSure={async () => {
            await api.DELETE('/api/projects/{project}/records/templates/{template_id}', { params: { path: { project, template_id: template.id } } })
            pick(null)
          }}
        >
          The template goes with its {plural(template.records, 'assembled record')}. Spans and texts stay as they are.
        </Sure>
      )}
    </>
  )
}

function usePickedTemplate(templates: readonly TemplateShown[] | undefined) {
  return usePick('records', templates, 'template')
}

interface SheetProps {
  left: React.ReactNode
  template: TemplateShown
  lead: boolean
  act: React.ReactNode
  onChange: () => void
  onRemove: () => void
}

function Sheet({ left, template, lead, act, onChange, onRemove }: SheetProps) {
  const project = useProject()
  const [onlyOpen, setOnlyOpen] = useState(false)
  const [wanted, setWanted] = useState<number | null>(null)
  const query = useInfiniteQuery(recordsQuery(project, template.id, onlyOpen))
  const records = useMemo(() => query.data?.pages.flatMap((page) => page.records) ?? [], [query.data])
  const chosen = records.find((r) => r.id === wanted) ?? records[0]
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = query
  const more = useCallback(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage()
  }, [hasNextPage, isFetchingNextPage, fetchNextPage])
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
            {lead && (
              <>
                <QuietAct onClick={onChange}>change template</QuietAct>
                <QuietAct color="bad" onClick={onRemove}>
                  remove
                </QuietAct>
              </>
            )}
          </Flex>
        </Flex>
        {template.stale && (
          <Box color="gold" fontSize="small" mb="2">
            Something has changed since these were assembled. Assemble again to bring them up to date.
          </Box>
        )}
        {records.length > 0 ? (
          <RecordTable template={template} records={records} chosen={chosen?.id ?? null} onChoose={(r) => setWanted(r.id)} onEnd={more} />
        ) : (
          query.isSuccess && (
            <Empty act={act}>
              {onlyOpen
                ? 'No record misses a required field.'
                : 'Records are made from gold where a sentence is signed, and from the evidence elsewhere. None has been assembled with this template.'}
            </Empty>
          )
        )}
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
