import { Box, Flex } from '@chakra-ui/react'
import { useState } from 'react'
import { Link } from 'react-router'

import { LinkAct, QuietAct } from '../../parts/controls'
import { Window } from '../../parts/Window'
import { plural } from '../../parts/words'
import { clearAside, useOutbox } from './outbox'

/** Acts that the server refused for good: told until one has read them. */
export function SetAside() {
  const aside = useOutbox((s) => s.aside)
  const [open, setOpen] = useState(false)
  if (aside.length === 0) return null
  const count = aside.reduce((sum, { kinds }) => sum + kinds.length, 0)
  return (
    <Box bg="badGround" color="bad" textAlign="center" fontSize="small" py="0.5" role="alert">
      {plural(count, 'act')} could not be saved; everything else was. <LinkAct onClick={() => setOpen(true)}>see why</LinkAct>
      {open && (
        <Window
          title="Acts that could not be saved"
          reads
          onClose={() => setOpen(false)}
          footer={
            <>
              <QuietAct onClick={() => setOpen(false)}>close</QuietAct>
              <QuietAct onClick={clearAside}>clear the list</QuietAct>
            </>
          }
        >
          <Box mb="2">The server refused these. Their sentences are as they were before; mark them again where that is still right.</Box>
          {aside.map(({ project, sentence, kinds, why }, i) => (
            <Flex key={i} gap="4" py="2" borderTopWidth="1px" borderColor="hairline" align="baseline">
              <Box flex="1">
                <b>{kinds.join(', ')}</b>: {why}
              </Box>
              <Box asChild color="action">
                <Link to={`/p/${project}/desk/${sentence}`} onClick={() => setOpen(false)}>
                  open the sentence
                </Link>
              </Box>
            </Flex>
          ))}
        </Window>
      )}
    </Box>
  )
}
