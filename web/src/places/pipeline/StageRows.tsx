import { Box, chakra, Flex } from '@chakra-ui/react'
import { type DragEvent, type ReactNode, useState } from 'react'

import type { EffectShown, PlanLookShown } from '../../api/schema'
import { CheckField } from '../../parts/controls'
import { number, percent, plural } from '../../parts/words'
import { KINDS, POLICIES, type Policy, type Stage } from './plan'

const Th = ({ children, left = false }: { children?: ReactNode; left?: boolean }) => (
  <chakra.th fontSize="tiny" color="second" fontWeight="bold" textAlign={left ? 'left' : 'right'} px="2" pb="1" scope="col">
    {children}
  </chakra.th>
)

interface StageRowsProps {
  stages: readonly Stage[]
  policy: Policy
  look: PlanLookShown | undefined
  /** The figures are of what was before the last change. */
  passing: boolean
  /** The name of a stage, or "" for the policy. */
  chosen: string
  onChoose: (name: string) => void
  /** Without it nobody may change anything. */
  onSwitch?: ((name: string) => void) | undefined
  onMove: (name: string, place: number) => void
}

/** The stages in their order, each with what it does on dev, and the policy behind them. */
export function StageRows({ stages, policy, look, passing, chosen, onChoose, onSwitch, onMove }: StageRowsProps) {
  const [dragged, setDragged] = useState<string | null>(null)
  const [over, setOver] = useState<string | null>(null)
  const effects = new Map(look?.stages.map((one) => [one.name, one]))
  const drop = (event: DragEvent, place: number) => {
    event.preventDefault()
    if (dragged !== null) onMove(dragged, place)
    setDragged(null)
    setOver(null)
  }
  return (
    <chakra.table w="full" fontVariantNumeric="tabular-nums" aria-label="stages" aria-busy={passing}>
      <thead>
        <tr>
          <Th left>stage</Th>
          <Th>adds</Th>
          <Th>of these right</Th>
          <Th>changes</Th>
          <Th>drops</Th>
          <Th>held back</Th>
          <Th>ms per 1 000 tokens</Th>
        </tr>
      </thead>
      <tbody>
        {stages.map((stage, place) => (
          <chakra.tr
            key={stage.name}
            bg={chosen === stage.name ? 'chosen' : undefined}
            borderTopWidth={over === stage.name ? '2px' : '1px'}
            borderColor={over === stage.name ? 'action' : 'hairline'}
            aria-selected={chosen === stage.name}
            cursor="default"
            onClick={() => onChoose(stage.name)}
            draggable={onSwitch !== undefined}
            onDragStart={() => setDragged(stage.name)}
            onDragEnd={() => setDragged(null)}
            onDragOver={(event: DragEvent) => {
              if (dragged === null) return
              event.preventDefault()
              setOver(stage.name)
            }}
            onDrop={(event: DragEvent) => drop(event, place)}
          >
            <chakra.td px="2" py="1">
              <Flex gap="2" align="center" css={{ '& label': { mb: '0' } }}>
                <span onClick={(event) => event.stopPropagation()}>
                  <CheckField label="" title={stage.on ? 'turn it off' : 'turn it on'} checked={stage.on} disabled={onSwitch === undefined} onChange={() => onSwitch?.(stage.name)} />
                </span>
                <chakra.button type="button" textAlign="left" fontWeight="bold" color={stage.on ? undefined : 'second'} onClick={() => onChoose(stage.name)}>
                  {stage.name}
                </chakra.button>
                {KINDS[stage.kind].label !== stage.name && (
                  <Box as="span" fontSize="small" color="second">
                    {KINDS[stage.kind].label}
                  </Box>
                )}
              </Flex>
              <Said stage={stage} effect={effects.get(stage.name)} />
            </chakra.td>
            <Effects effect={stage.on ? effects.get(stage.name) : undefined} tokens={look?.tokens ?? 0} />
          </chakra.tr>
        ))}
        <chakra.tr bg={chosen === '' ? 'chosen' : undefined} borderTopWidth="1px" borderColor="hairline" aria-selected={chosen === ''} onClick={() => onChoose('')}>
          <chakra.td px="2" py="1.5" colSpan={7}>
            <chakra.button type="button" textAlign="left" fontWeight="bold" onClick={() => onChoose('')}>
              what stands in the end
            </chakra.button>{' '}
            <Box as="span" color="second">
              {POLICIES[policy.kind].label}
            </Box>
          </chakra.td>
        </chakra.tr>
      </tbody>
    </chakra.table>
  )
}

function Effects({ effect, tokens }: { effect: EffectShown | undefined; tokens: number }) {
  const figures = effect && [
    number(effect.added),
    effect.judged > 0 ? percent(effect.right, effect.judged) : '–',
    number(effect.changed),
    number(effect.dropped),
    number(effect.refused),
    tokens > 0 ? (1000 * (effect.milliseconds / tokens)).toFixed(1) : '–',
  ]
  return (figures ?? ['', '', '', '', '', '']).map((figure, k) => (
    <chakra.td key={k} textAlign="right" px="2" verticalAlign="middle" whiteSpace="nowrap" color={figure === '0' ? 'second' : undefined}>
      {figure}
    </chakra.td>
  ))
}

/** What is to be said of a stage beside its figures. */
function Said({ stage, effect }: { stage: Stage; effect: EffectShown | undefined }) {
  if (!stage.on) return <Note>off</Note>
  if (!effect) return null
  if (effect.troubles.length > 0) {
    return (
      <Box fontSize="small" color="bad" title={effect.troubles.join('\n')}>
        went wrong in {plural(effect.troubles.length, 'text')}: {effect.troubles[0]}
      </Box>
    )
  }
  const nothing = effect.added + effect.changed + effect.dropped === 0
  return nothing ? <Note>brings nothing on dev</Note> : null
}

const Note = ({ children }: { children: ReactNode }) => (
  <Box fontSize="small" color="second">
    {children}
  </Box>
)
