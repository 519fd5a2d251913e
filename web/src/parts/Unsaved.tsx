import { Flex } from '@chakra-ui/react'
import { useState } from 'react'

import { BadAct, QuietAct } from './controls'

/** Before something typed is lost by a key. Who goes on is back where they typed. */
export function Unsaved({ onDiscard, onGoOn }: { onDiscard: () => void; onGoOn: () => void }) {
  const [typed] = useState(() => document.activeElement)
  const goOn = () => {
    onGoOn()
    if (typed instanceof HTMLElement) typed.focus()
  }
  return (
    <Flex role="alert" justify="flex-end" align="center" gap="2" py="2" mb="2" position="sticky" bottom="-2" bg="goldGround" px="3">
      <b>What you typed is not saved.</b>
      <BadAct onClick={onDiscard}>discard it</BadAct>
      <QuietAct autoFocus onClick={goOn}>
        go on typing
      </QuietAct>
    </Flex>
  )
}
