import { Box, Table } from '@chakra-ui/react'
import { Link } from 'react-router'

import { useProject } from '../../api/project'
import type { CarriedInShown, CarriedShown, RemainsShown } from '../../api/schema'
import { LinkAct } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { number, plural } from '../../parts/words'

/** What comes over from versions that are here, in words. */
export const carriedWords = ({ texts, signed, begun, left, stayed }: CarriedShown): string[] => [
  `${plural(texts, 'text')} ${texts === 1 ? 'is a new version' : 'are new versions'} of what is here, in the same group and split`,
  `${plural(signed, 'sentence')} with the same words ${signed === 1 ? 'is' : 'are'} signed as before`,
  ...(begun > 0 ? [`${plural(begun, 'changed sentence')} ${begun === 1 ? 'is' : 'are'} begun with the spans that are found again`] : []),
  ...(left > 0 ? [`${plural(left, 'signed sentence')} ${left === 1 ? 'does' : 'do'} not come over as ${left === 1 ? 'it was, and stays' : 'they were, and stay'} in the version before`] : []),
  ...(stayed > 0 ? [`${plural(stayed, 'text')} from these sources did not come again and ${stayed === 1 ? 'stays as it is' : 'stay as they are'}`] : []),
]

/** Before it is kept. */
export function Carried({ carried }: { carried: CarriedShown }) {
  return (
    <Box as="section" mb="4">
      <Heading>New versions</Heading>
      <Box as="ul" ps="4" listStyleType="disc">
        {carriedWords(carried).map((words) => (
          <li key={words}>{words}</li>
        ))}
      </Box>
    </Box>
  )
}

const WHY: Record<RemainsShown['why'], string> = {
  changed: 'was changed',
  repeated: 'stands several times, with other marks',
  gone: 'is not there any more',
}

/** Signed sentences that did not come over as they were, to be looked at. */
export function Remains({ carried }: { carried: CarriedInShown }) {
  const project = useProject()
  const { remains, left } = carried
  if (remains.length === 0) return null
  return (
    <Box as="section" mt="5">
      <Heading>{left > remains.length ? `To look at: the first ${number(remains.length)} of ${number(left)}` : 'To look at'}</Heading>
      <Table.Root size="sm" aria-label="sentences to look at">
        <Table.Header>
          <Table.Row>
            <Table.ColumnHeader ps="0">signed in the version before</Table.ColumnHeader>
            <Table.ColumnHeader>what became of it</Table.ColumnHeader>
            <Table.ColumnHeader>open at the Desk</Table.ColumnHeader>
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {remains.map((one) => (
            <Table.Row key={one.sentence}>
              <Table.Cell ps="0" verticalAlign="top">
                {one.words}
                <Box color="second" fontSize="small">
                  {one.title}
                </Box>
              </Table.Cell>
              <Table.Cell verticalAlign="top" minW="48">
                {WHY[one.why]}
                {one.lost.length > 0 && (
                  <Box color="second" fontSize="small">
                    not found again: {one.lost.map((words) => `“${words}”`).join(', ')}
                  </Box>
                )}
              </Table.Cell>
              <Table.Cell verticalAlign="top" whiteSpace="nowrap">
                {one.now !== null && (
                  <LinkAct asChild>
                    <Link to={`/p/${project}/desk/${one.now}`}>new</Link>
                  </LinkAct>
                )}
                <LinkAct asChild ms={one.now === null ? undefined : '3'}>
                  <Link to={`/p/${project}/desk/${one.sentence}`}>before</Link>
                </LinkAct>
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Box>
  )
}
