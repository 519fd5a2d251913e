import { Flex } from '@chakra-ui/react'
import { memo } from 'react'

import { LinkAct } from '../../parts/controls'
import { focusWork } from '../../parts/focus'
import { EVERY_LANE } from './lanes'
import { toggleLane, useDeskSettings } from './settings'

/** Which lanes are drawn. */
export const LaneSwitches = memo(function LaneSwitches() {
  const hidden = useDeskSettings((settings) => settings.hidden)
  return (
    <Flex gap="2" role="group" aria-label="lanes">
      lanes:
      {EVERY_LANE.map(([name, label]) => (
        <LinkAct
          key={name}
          aria-pressed={!hidden.includes(name)}
          textDecoration={hidden.includes(name) ? 'line-through' : 'none'}
          color={hidden.includes(name) ? 'second' : 'action'}
          onClick={() => {
            toggleLane(name)
            focusWork()
          }}
        >
          {label.toLowerCase()}
        </LinkAct>
      ))}
    </Flex>
  )
})
