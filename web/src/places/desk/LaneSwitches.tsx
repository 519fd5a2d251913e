import { Flex } from '@chakra-ui/react'
import { memo } from 'react'

import { LinkAct } from '../../parts/controls'
import { focusWork } from '../../parts/focus'
import { EVERY_LANE, PIPELINE } from './lanes'
import { toggleLane, useDeskSettings } from './settings'

interface LaneSwitchesProps {
  /** From which probability on the pipeline's answer takes a span; null where it does not weigh them. */
  weighsFrom: number | null
  /** The pipeline has something here that no other lane has; its lane is there only then. */
  more: boolean
}

/** Which lanes are drawn, and how likely what is taken at once must be. */
export const LaneSwitches = memo(function LaneSwitches({ weighsFrom, more }: LaneSwitchesProps) {
  const hidden = useDeskSettings((settings) => settings.hidden)
  return (
    <Flex gap="2" role="group" aria-label="lanes">
      lanes:
      {EVERY_LANE.filter(([name]) => more || name !== PIPELINE[0]).map(([name, label]) => (
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
      {weighsFrom !== null && <Sure least={weighsFrom} />}
    </Flex>
  )
})

const STEPS = [0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 0.99]

/** What “take all” takes. */
function Sure({ least }: { least: number }) {
  const sure = useDeskSettings((settings) => settings.sure)
  const steps = STEPS.filter((step) => step > least)
  return (
    <label>
      take all{' '}
      <select
        value={steps.includes(sure) ? sure : 0}
        onChange={(event) => {
          useDeskSettings.setState({ sure: Number(event.currentTarget.value) })
          focusWork()
        }}
      >
        <option value={0}>that stands</option>
        {steps.map((step) => (
          <option key={step} value={step}>
            from {Math.round(100 * step)} % on
          </option>
        ))}
      </select>
    </label>
  )
}
