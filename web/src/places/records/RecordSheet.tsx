import { Box, Flex } from '@chakra-ui/react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { useMayAnnotate, useProject } from '../../api/project'
import type { PartShown, RecordDetail, TemplateShown, ValueShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, LinkAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Heading, Section } from '../../parts/layout'
import { tell } from '../../parts/notes'
import { TypeCode } from '../../parts/signs'
import { useAct } from '../../parts/useAct'
import { StaveList } from '../../stave/StaveList'
import { recordQuery } from './queries'

interface RecordSheetProps {
  id: number
  template: TemplateShown
  /** Its sentences, or its values with the reasons for each. */
  part: 'staves' | 'values'
}

export function RecordSheet({ id, template, part }: RecordSheetProps) {
  const query = useQuery({ ...recordQuery(useProject(), id), placeholderData: keepPreviousData })
  const { hues } = useScheme()
  return (
    <Ask query={query}>
      {(record) =>
        part === 'staves' ? (
          <StaveList page={{ total: record.staves.length, staves: record.staves }} lanes={lanesOf(record)} hues={hues} empty="No words of the text say what this record holds." />
        ) : (
          <Values record={record} template={template} hues={hues} />
        )
      }
    </Ask>
  )
}

/** A lane for all spans, and one for each record that has some of them. */
function lanesOf(record: RecordDetail): (readonly [string, string])[] {
  const named = new Set(record.staves.flatMap((stave) => Object.keys(stave.lanes)))
  const records = Array.from({ length: Math.max(record.of_text, record.number) + 1 }, (_, k) => `record ${k + 1}`)
  return [
    ['gold', 'Gold'],
    ['resolved', 'Evidence'],
    ...records.filter((name) => named.has(name)).map((name) => [name, name === `record ${record.number}` ? 'This one' : `Record ${name.slice(7)}`] as const),
  ]
}

type Move = 'sign' | 'refuse' | 'reopen'

interface ValuesProps {
  record: RecordDetail
  template: TemplateShown
  hues: ReadonlyMap<string, number>
}

function Values({ record, template, hues }: ValuesProps) {
  const project = useProject()
  const may = useMayAnnotate()
  const move = useAct(
    (how: Move) => {
      const params = { params: { path: { project, record_id: record.id } } }
      if (how === 'sign') return api.POST('/api/projects/{project}/records/{record_id}/sign', params)
      if (how === 'refuse') return api.POST('/api/projects/{project}/records/{record_id}/refuse', params)
      return api.POST('/api/projects/{project}/records/{record_id}/reopen', params)
    },
    {
      changes: 'records',
      // It is gone from the table: the way back is offered where it went.
      onDone: (_, how) => how === 'refuse' && tell(`A record of ${record.text_title} is turned down.`, { label: 'undo', onClick: () => move.run('reopen') }),
    },
  )
  const signed = record.state === 'signed'
  useKeys(
    may
      ? [
          { keys: ['enter'], caps: ['↵'], label: signed ? 'withdraw the signature' : 'sign the record', run: () => move.run(signed ? 'reopen' : 'sign') },
          ...(signed ? [] : [{ keys: ['-'], caps: ['-'], label: 'turn the record down', run: () => move.run('refuse') }]),
        ]
      : [],
  )
  return (
    <>
      <Heading side={<Box fontSize="tiny" color={signed ? 'good' : 'second'}>{`${record.missing.length > 0 ? 'open' : 'complete'} · ${signed ? 'signed' : 'not signed'}`}</Box>}>
        {template.name} · {record.text_title}
      </Heading>
      {may && (
        <Flex gap="2" mb="2" align="center">
          {signed ? (
            <QuietAct onClick={() => move.run('reopen')} disabled={move.busy}>
              withdraw the signature
            </QuietAct>
          ) : (
            <>
              <Act onClick={() => move.run('sign')} disabled={move.busy}>
                sign
              </Act>
              <QuietAct onClick={() => move.run('refuse')} disabled={move.busy}>
                turn down
              </QuietAct>
            </>
          )}
        </Flex>
      )}
      {template.fields.map((field) => (
        <FieldRow key={field.name} name={field.name} record={record} anchor={field.name === template.anchor} hues={hues} />
      ))}
      {Object.keys(record.differs).length > 0 && (
        <Section>
          <Heading>Would be found otherwise now</Heading>
          {Object.entries(record.differs).map(([name, [mine, theirs]]) => (
            <Box key={name} fontSize="small" mb="1">
              {name}: {mine || 'nothing'} <Box as="span" color="second">signed,</Box> {theirs || 'nothing'} <Box as="span" color="second">now</Box>
            </Box>
          ))}
        </Section>
      )}
      {record.rivals.length > 0 && (
        <Section>
          <Heading>Would also fit</Heading>
          {record.rivals.map((rival) => (
            <Box key={`${rival.field}-${rival.start}`} fontSize="small" mb="1">
              {rival.field}: <TypeCode code={rival.type} hue={hues.get(rival.type)} /> “{rival.written}”
              <Box as="span" color="second">
                {' '}
                · {rival.why}
              </Box>
            </Box>
          ))}
        </Section>
      )}
    </>
  )
}

interface FieldRowProps {
  name: string
  record: RecordDetail
  anchor: boolean
  hues: ReadonlyMap<string, number>
}

function FieldRow({ name, record, anchor, hues }: FieldRowProps) {
  const values = record.read[name] ?? []
  const parts = record.parts[name] ?? []
  const missing = record.missing.includes(name)
  return (
    <Box py="1.5" borderBottomWidth="1px" borderColor="hairline">
      <Flex justify="space-between" gap="3" align="baseline">
        <Box color="second">{name}</Box>
        <Box fontWeight="bold" textAlign="right" color={missing || values.some((one) => one.fault) ? 'bad' : 'ink'}>
          {record.values[name] || (missing ? 'missing' : '–')}
        </Box>
      </Flex>
      {values.map((value, k) => (
        <How key={`${value.text}-${k}`} value={value} />
      ))}
      {parts.map((part) => (
        <Why key={`${part.type}-${part.start}`} part={part} anchor={anchor} hue={hues.get(part.type)} />
      ))}
    </Box>
  )
}

function How({ value }: { value: ValueShown }) {
  if (!value.how && !value.fault) return null
  return (
    <Box fontSize="small" textAlign="right" color={value.fault ? 'bad' : 'second'}>
      {value.fault || value.how}
    </Box>
  )
}

/** The words, how they were linked, and on request what spoke for it. */
function Why({ part, anchor, hue }: { part: PartShown; anchor: boolean; hue: number | undefined }) {
  const [open, setOpen] = useState(false)
  const sure = part.probability === null ? '' : ` · ${Math.round(part.probability * 100)} %`
  return (
    <Box fontSize="small" color="second" textAlign="right">
      <TypeCode code={part.type} hue={hue} /> “{part.written}”{part.why && ` · ${part.why}`}
      {anchor && ' · opens the record'}
      {sure}
      {part.speaks.length > 0 && (
        <>
          {' '}
          <LinkAct aria-expanded={open} onClick={() => setOpen(!open)}>
            why
          </LinkAct>
        </>
      )}
      {open && (
        <Box as="ul" mt="1" mb="1.5">
          <Box as="li" color="third">
            against {part.against || 'belonging to no record'}
          </Box>
          {part.speaks.map((one) => (
            <Flex as="li" key={one.words} justify="space-between" gap="3">
              <Box textAlign="left">{one.words}</Box>
              <Box fontVariantNumeric="tabular-nums" color={one.weight < 0 ? 'bad' : 'good'}>
                {one.weight > 0 ? '+' : '−'}
                {Math.abs(one.weight).toFixed(2)}
              </Box>
            </Flex>
          ))}
        </Box>
      )}
    </Box>
  )
}
