import { Box, Flex, Stack } from '@chakra-ui/react'

import type { ChoicesShown, PipelinePlan } from '../../api/schema'
import { ChoiceField, QuietAct } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { ShareField } from './fields'
import { POLICIES, type Policy } from './plan'
import { Weighing } from './Weighing'

interface PolicySheetProps {
  plan: PipelinePlan
  choices: ChoicesShown
  onChange: (plan: PipelinePlan) => void
  readOnly: boolean
}

const KINDS = Object.entries(POLICIES).map(([value, { label }]) => ({ value, label }))

/** Which spans stand where only one of several may. */
export function PolicySheet({ plan, choices, onChange: onPlan, readOnly }: PolicySheetProps) {
  const { policy } = plan
  const onChange = (next: Policy) => onPlan({ ...plan, policy: next })
  const weighed = policy.kind === 'weighed'
  const likely = policy.kind === 'likeliest'
  return (
    <Box as="fieldset" aria-label="what stands in the end" {...(readOnly && { disabled: true })}>
      <Heading>What stands in the end</Heading>
      <Stack gap="3" px="3">
        <ChoiceField label="of spans that may not stand together" value={policy.kind} options={KINDS} onChange={(kind) => onChange({ ...policy, kind: kind as Policy['kind'] })} help={POLICIES[policy.kind].about} />
        {weighed && <Weighing plan={plan} onChange={onPlan} readOnly={readOnly} />}
        {!weighed && <Order label="who goes first" plan={plan} order={policy.order} onChange={(order) => onChange({ ...policy, order })} />}
        {policy.kind === 'by type' &&
          choices.types.map((code) => (
            <Order key={code} label={`for ${code}`} plan={plan} order={policy.by_type[code] ?? []} onChange={(order) => onChange({ ...policy, by_type: withOrder(policy.by_type, code, order) })} />
          ))}
        {likely && <ShareField label="least probability" value={policy.least ?? 0} onChange={(least) => onChange({ ...policy, least })} help="What is less likely is left out." />}
        {likely &&
          plan.stages
            .filter(({ kind }) => kind !== 'tagger' && kind !== 'where' && kind !== 'types')
            .map(({ name }) => (
              <ShareField key={name} label={`spans of ${name} count as`} value={policy.worth[name] ?? 0.5} onChange={(share) => onChange({ ...policy, worth: { ...policy.worth, [name]: share } })} />
            ))}
      </Stack>
    </Box>
  )
}

function withOrder(held: Policy['by_type'], code: string, order: string[]): Policy['by_type'] {
  const rest = Object.fromEntries(Object.entries(held).filter(([other]) => other !== code))
  return order.length === 0 ? rest : { ...rest, [code]: order }
}

interface OrderProps {
  label: string
  plan: PipelinePlan
  order: readonly string[]
  onChange: (order: string[]) => void
}

/** Stages in the order in which they go; those that nobody has placed come after the others, later ones first. */
function Order({ label, plan, order, onChange }: OrderProps) {
  const rest = plan.stages.map(({ name }) => name).filter((name) => !order.includes(name)).reverse()
  const whole = [...order, ...rest]
  const up = (at: number) => {
    const name = whole[at] as string
    const moved = whole.filter((one) => one !== name)
    onChange([...moved.slice(0, at - 1), name, ...moved.slice(at - 1)])
  }
  return (
    <Box role="group" aria-label={label}>
      <Box fontWeight="bold">{label}</Box>
      {whole.map((name, at) => (
        <Flex key={name} align="center" gap="2">
          <Box flex="1">
            {at + 1}. {name}
          </Box>
          {at > 0 && (
            <QuietAct aria-label={`${label}: move ${name} up`} onClick={() => up(at)}>
              move up
            </QuietAct>
          )}
        </Flex>
      ))}
      {order.length > 0 && <QuietAct onClick={() => onChange([])}>later stages first</QuietAct>}
    </Box>
  )
}
