import { Box, Flex, Table } from '@chakra-ui/react'

import { ProblemError } from '../api/client'
import { Act, QuietAct } from './controls'

type Version = Record<string, unknown>

/** Two people changed one thing: what the server has, and what was sent. */
export interface Stale {
  theirs: Version
  yours: Version
}

/** Both versions, if that is what an error is about. */
export function staleOf(error: unknown): Stale | undefined {
  if (!(error instanceof ProblemError) || error.kind !== 'urn:urdaten:stale-write') return undefined
  const { theirs, yours } = error.more as Partial<Stale>
  return theirs && yours ? { theirs, yours } : undefined
}

/** The version that stands; saving over it has to name it. */
export const versionOf = ({ theirs }: Stale): number => Number(theirs['version'])

const words = (value: unknown): string => {
  if (Array.isArray(value)) return value.map(words).join('; ') || '–'
  if (typeof value === 'object' && value !== null) return Object.values(value).map(words).join(', ')
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'number') return String(value)
  return typeof value === 'string' && value !== '' ? value : '–'
}

interface BothVersionsProps {
  stale: Stale
  onMine: () => void
  onTheirs: () => void
}

/** What differs between the two, and a choice. Nothing is lost until one has chosen. */
export function BothVersions({ stale: { theirs, yours }, onMine, onTheirs }: BothVersionsProps) {
  const differing = Object.keys(yours).filter((name) => name !== 'version' && words(theirs[name]) !== words(yours[name]))
  return (
    <Box role="alert" borderWidth="1px" borderColor="goldMark" bg="goldGround" px="3" py="2" mb="3">
      <Box mb="2">Somebody else changed this while you had it open. Choose which version stands.</Box>
      {differing.length > 0 && (
        <Table.Root size="sm" variant="line" mb="2" css={{ '& td, & th': { background: 'transparent', verticalAlign: 'top' } }}>
          <Table.Header>
            <Table.Row>
              <Table.ColumnHeader />
              <Table.ColumnHeader>there now</Table.ColumnHeader>
              <Table.ColumnHeader>yours</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {differing.map((name) => (
              <Table.Row key={name}>
                <Table.Cell>{name.replaceAll('_', ' ')}</Table.Cell>
                <Table.Cell>{words(theirs[name])}</Table.Cell>
                <Table.Cell>{words(yours[name])}</Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
      <Flex gap="2" justify="flex-end">
        <QuietAct onClick={onTheirs}>use theirs</QuietAct>
        <Act onClick={onMine}>save mine instead</Act>
      </Flex>
    </Box>
  )
}
