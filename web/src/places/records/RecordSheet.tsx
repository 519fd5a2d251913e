import { Box, Flex } from '@chakra-ui/react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import type { RecordDetail, TemplateShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Heading, Section } from '../../parts/layout'
import { TypeCode } from '../../parts/signs'
import { StaveList } from '../../stave/StaveList'
import { recordQuery } from './queries'

const LANES = [['gold', 'Gold'], ['resolved', 'Evidence'], ['record', 'Record']] as const

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
          <StaveList page={{ total: record.staves.length, staves: record.staves }} lanes={LANES} hues={hues} empty="" />
        ) : (
          <Values record={record} template={template} hues={hues} />
        )
      }
    </Ask>
  )
}

function Values({ record, template, hues }: { record: RecordDetail; template: TemplateShown; hues: ReadonlyMap<string, number> }) {
  return (
    <>
      <Heading side={<Box fontSize="tiny" color="second">{record.missing.length > 0 ? 'open' : 'complete'}</Box>}>
        {template.name} · {record.text_title}
      </Heading>
      {template.fields.map((field) => {
        const parts = record.parts[field.name] ?? []
        return (
          <Box key={field.name} py="1.5" borderBottomWidth="1px" borderColor="hairline">
            <Flex justify="space-between" gap="3" align="baseline">
              <Box color="second">{field.name}</Box>
              <Box fontWeight="bold" textAlign="right" color={record.missing.includes(field.name) ? 'bad' : 'ink'}>
                {record.values[field.name] || (record.missing.includes(field.name) ? 'missing' : '–')}
              </Box>
            </Flex>
            {parts.map((part) => (
              <Box key={part.start} fontSize="small" color="second" textAlign="right">
                <TypeCode code={part.type} hue={hues.get(part.type)} /> “{part.written}” · {part.why} · {part.source}
              </Box>
            ))}
          </Box>
        )
      })}
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
