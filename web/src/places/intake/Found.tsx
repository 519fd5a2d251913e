import { Box, Flex, Table } from '@chakra-ui/react'
import { useState } from 'react'

import type { LookedShown, SampleShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { partsOf, WithAside } from '../../parts/aside'
import { ChoiceField, LinkAct } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { TypeCode } from '../../parts/signs'
import { number, percent, plural } from '../../parts/words'
import { KINDS, type Plan, ROLES, separatorName } from './plan'

const SHOWN_FILES = 12

/** Each file: what it is, and what its columns are for. */
export function FoundFiles({ looked, plan, onChange }: { looked: LookedShown; plan: Plan; onChange: (plan: Plan) => void }) {
  const [all, setAll] = useState(false)
  const files = all ? looked.files : looked.files.slice(0, SHOWN_FILES)
  const { columns, unknown } = looked
  return (
    <Box as="section" mb="4">
      <Heading>Files</Heading>
      <Table.Root size="sm" aria-label="files">
        <Table.Header>
          <Table.Row>
            <Table.ColumnHeader ps="0">file</Table.ColumnHeader>
            <Table.ColumnHeader>is</Table.ColumnHeader>
            <Table.ColumnHeader textAlign="end">texts</Table.ColumnHeader>
            <Table.ColumnHeader textAlign="end">refused</Table.ColumnHeader>
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {files.map((file, at) => (
            <Table.Row key={at}>
              <Table.Cell ps="0">{file.name}</Table.Cell>
              <Table.Cell color="second">
                {[KINDS[file.kind] ?? 'not readable', file.encoding && (file.guessed ? `${file.encoding}, guessed` : file.encoding), file.delimiter && separatorName(file.delimiter)]
                  .filter(Boolean)
                  .join(', ')}
              </Table.Cell>
              <Table.Cell textAlign="end" fontVariantNumeric="tabular-nums">
                {number(file.texts)}
              </Table.Cell>
              <Table.Cell textAlign="end" fontVariantNumeric="tabular-nums" color={file.refused > 0 ? 'bad' : 'second'}>
                {number(file.refused)}
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      {!all && looked.files.length > SHOWN_FILES && <LinkAct onClick={() => setAll(true)}>show all {plural(looked.files.length, 'file')}</LinkAct>}
      {columns.length > 0 && (
        <Table.Root size="sm" aria-label="columns" mt="3">
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader ps="0">column</Table.ColumnHeader>
              <Table.ColumnHeader>is for</Table.ColumnHeader>
              <Table.ColumnHeader>begins with</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {columns.map(({ name, role, values }) => (
              <Table.Row key={name}>
                <Table.Cell ps="0" whiteSpace="nowrap">
                  {name}
                </Table.Cell>
                <Table.Cell css={{ '& > div': { marginBottom: 0 } }} minW="48">
                  <ChoiceField
                    label={`what ${name} is for`}
                    quietLabel
                    value={plan.roles?.[name] ?? role}
                    options={ROLES}
                    onChange={(value) => onChange({ ...plan, roles: { ...plan.roles, [name]: value } })}
                  />
                </Table.Cell>
                <Table.Cell color="second" fontSize="small">
                  <Box lineClamp="2">{values.join(' · ') || 'nothing'}</Box>
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      {unknown.length > 0 && (
        <Box role="alert" color="bad" mt="2">
          The plan names columns that no file has: {unknown.join(', ')}.
        </Box>
      )}
    </Box>
  )
}

/** Ten texts as they would stand. */
export function Samples({ looked }: { looked: LookedShown }) {
  if (looked.sample.length === 0) return null
  return (
    <Box as="section" mb="4">
      <Heading>{looked.texts > looked.sample.length ? `${looked.sample.length} of ${plural(looked.texts, 'text')}, as they would stand` : 'As they would stand'}</Heading>
      {looked.sample.map((one, at) => (
        <Sample key={at} one={one} />
      ))}
    </Box>
  )
}

function Sample({ one }: { one: SampleShown }) {
  const { hues } = useScheme()
  const said = [one.dated, one.group && `group ${one.group}`, one.split !== 'none' && one.split, ...Object.entries(one.meta).map(([name, value]) => `${name}: ${value}`)]
  const signs = Array.from(one.body)
  return (
    <Box borderTopWidth="1px" borderColor="hairline" py="2">
      <Flex justify="space-between" gap="4" align="baseline">
        <Box fontWeight="bold">{one.title}</Box>
        <Box color="second" fontSize="small" textAlign="right">
          {one.place ? `${one.source}, ${one.place}` : one.source}
        </Box>
      </Flex>
      <Box color="second" fontSize="small" lineClamp="2">
        {said.filter(Boolean).join(' · ')}
      </Box>
      {one.note && (
        <Box color="bad" fontSize="small">
          {one.note}
        </Box>
      )}
      <Box tabIndex={0} role="region" aria-label={`begin of ${one.title}`} fontFamily="text" fontSize="context" whiteSpace="pre-wrap" maxH="40" overflow="auto" mt="1">
        <WithAside parts={partsOf(one.body, one.aside)} />
        {one.cut && ' …'}
      </Box>
      {one.spans.length > 0 && (
        <Flex gap="3" wrap="wrap" mt="1" fontSize="small">
          {one.spans.map(({ start, end, type }) => (
            <Box key={`${start}-${end}-${type}`}>
              <TypeCode code={type} hue={hues.get(type)} /> {signs.slice(start, end).join('')}
            </Box>
          ))}
        </Flex>
      )}
    </Box>
  )
}

/** What is refused, where it stands and why. */
export function Refusals({ looked }: { looked: LookedShown }) {
  const { refusals, refused } = looked
  if (refused === 0) return null
  return (
    <Box as="section" mb="4">
      <Heading>{refused > refusals.length ? `Refused: the first ${refusals.length} of ${number(refused)}` : 'Refused'}</Heading>
      <Table.Root size="sm" aria-label="refused">
        <Table.Body>
          {refusals.map((one, at) => (
            <Table.Row key={at}>
              <Table.Cell ps="0" verticalAlign="top">
                {one.source}
                <Box color="second" fontSize="small">
                  {one.place}
                </Box>
              </Table.Cell>
              <Table.Cell verticalAlign="top">
                {one.why}
                <Box color="second" fontSize="small" lineClamp="2">
                  {one.content}
                </Box>
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Box>
  )
}

/** Texts that are nearly the same as another one. */
export function Alike({ looked }: { looked: LookedShown }) {
  const { alike, near } = looked
  if (near === 0) return null
  return (
    <Box as="section" mb="4">
      <Heading>{near > alike.length ? `Nearly the same: the first ${alike.length} of ${number(near)}` : 'Nearly the same'}</Heading>
      <Table.Root size="sm" aria-label="nearly the same">
        <Table.Body>
          {alike.map((one, at) => (
            <Table.Row key={at}>
              <Table.Cell ps="0">{one.place ? `${one.source}, ${one.place}` : one.source}</Table.Cell>
              <Table.Cell>
                {one.in_project ? `“${one.other}”, which is here` : one.other_place ? `${one.other}, ${one.other_place}` : one.other}
              </Table.Cell>
              <Table.Cell textAlign="end" color="second">
                {percent(Math.round(one.share * 1000), 1000)} of their runs of words
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Box>
  )
}
