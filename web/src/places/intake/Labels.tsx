import { Box, Flex, Table } from '@chakra-ui/react'

import type { LookedShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { ChoiceField, QuietAct } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { number } from '../../parts/words'
import { LateField } from './LateField'
import type { Plan } from './plan'

const STANDING = [
  { value: 'begun', label: 'begun: to be looked through and signed' },
  { value: 'signed', label: 'signed by me, where the corpus has them signed' },
  { value: 'left out', label: 'not at all' },
]

const NEW = '+'

interface LabelsProps {
  looked: LookedShown
  plan: Plan
  onChange: (plan: Plan) => void
  /** Add a type for each of these labels. */
  onAdd: (labels: readonly string[]) => void
  adding: boolean
}

/** What an annotated corpus calls its types, and which types of the scheme they are. */
export function Labels({ looked, plan, onChange, onAdd, adding }: LabelsProps) {
  const { types } = useScheme()
  const options = [{ value: '', label: 'left out' }, { value: NEW, label: 'a new type' }, ...types.map(({ code, name }) => ({ value: code, label: `${code} ${name}` }))]
  const left = Object.entries(looked.left_out)
  const codeOf = (label: string, code: string) => plan.labels?.[label] ?? code
  const without = looked.labels.filter(({ label, code }) => codeOf(label, code) === '').map(({ label }) => label)
  return (
    <Box as="section" mb="4">
      <Heading
        side={
          without.length > 1 && (
            <QuietAct loading={adding} onClick={() => onAdd(without)}>
              add types for the {number(without.length)} labels without one
            </QuietAct>
          )
        }
      >
        What is marked in it
      </Heading>
      <Flex gap="4" wrap="wrap">
        <Box minW="80">
          <ChoiceField label="spans stand" value={plan.spans} options={STANDING} onChange={(value) => onChange({ ...plan, spans: value })} />
        </Box>
        <LateField label="layer" value={plan.layer} help="gold, unless you name another" onChange={(value) => onChange({ ...plan, layer: value })} />
      </Flex>
      <Table.Root size="sm" aria-label="labels" maxW="2xl">
        <Table.Header>
          <Table.Row>
            <Table.ColumnHeader ps="0">label</Table.ColumnHeader>
            <Table.ColumnHeader textAlign="end">spans</Table.ColumnHeader>
            <Table.ColumnHeader>type</Table.ColumnHeader>
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {looked.labels.map(({ label, spans, code }) => (
            <Table.Row key={label}>
              <Table.Cell ps="0">{label}</Table.Cell>
              <Table.Cell textAlign="end" fontVariantNumeric="tabular-nums">
                {number(spans)}
              </Table.Cell>
              <Table.Cell css={{ '& > div': { marginBottom: 0 } }}>
                <ChoiceField
                  label={`type of ${label}`}
                  quietLabel
                  value={codeOf(label, code)}
                  options={options}
                  onChange={(value) => (value === NEW ? onAdd([label]) : onChange({ ...plan, labels: { ...plan.labels, [label]: value } }))}
                />
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      {left.map(([why, count]) => (
        <Box key={why} color="second">
          {number(count)} spans are left out {why}.
        </Box>
      ))}
    </Box>
  )
}
