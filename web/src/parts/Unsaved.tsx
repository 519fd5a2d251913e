import { Flex } from '@chakra-ui/react'

import { BadAct, QuietAct } from './controls'

/** Before something typed is lost by a key. */
export function Unsaved({ onDiscard, onGoOn }: { onDiscard: () => void; onGoOn: () => void }) {
  return (
    <Flex role="alert" justify="flex-end" align="center" gap="2" py="2" mb="2" position="sticky" bottom="-2" bg="goldGround" px="3">
      <b>What you typed is not saved.</b>
      <BadAct onClick={onDiscard}>discard it</BadAct>
      <QuietAct autoFocus onClick={onGoOn}>
        go on typing
      </QuietAct>
    </Flex>
  )
}
