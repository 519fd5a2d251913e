import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useProject } from '../../../api/project'
import type { StretchShown } from '../../../api/schema'
import { Ask } from '../../../parts/Ask'
import { ChoiceField, TextField } from '../../../parts/controls'
import { plural } from '../../../parts/words'
import { Bars, SaveAs } from './Bars'
import { type FindingsWish, timeQuery, type TimeWish } from './queries'
import { Sentences } from './Sentences'

type Step = NonNullable<TimeWish['step']>
const STEPS: readonly { value: Step; label: string }[] = [
  { value: 'day', label: 'day' },
  { value: 'week', label: 'week' },
  { value: 'month', label: 'month' },
  { value: 'year', label: 'year' },
]
const month = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric', timeZone: 'UTC' })
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' })

/** As a stretch is called: “July 2026”, “6 Jul 2026”, “week of 6 Jul 2026”. */
function nameOf({ since }: StretchShown, step: Step): string {
  const first = new Date(`${since}T00:00:00Z`)
  if (step === 'month') return month.format(first)
  if (step === 'year') return since.slice(0, 4)
  return step === 'week' ? `week of ${day.format(first)}` : day.format(first)
}

/** How many spans of a type, or of one value of it, texts of each stretch of time have. */
export function OverTime({ type, wish }: { type: string; wish: FindingsWish }) {
  const [step, setStep] = useState<Step>('week')
  const [named, setNamed] = useState('')
  const [chosen, setChosen] = useState<string | null>(null)
  const query = useQuery(timeQuery(useProject(), { ...wish, of: type, step, named: named.trim() }))
  return (
    <>
      <Flex gap="3" maxW="lg">
        <ChoiceField label="by" value={step} options={STEPS} onChange={(value) => setStep(value as Step)} />
        <TextField label="value" value={named} help="empty for all of the type" onChange={setNamed} />
      </Flex>
      <Ask query={query}>
        {({ bins, undated }) => {
          const stretch = bins.find((one) => one.since === chosen)
          const bars = bins.map((one) => ({ name: nameOf(one, step), count: one.spans }))
          if (bins.length === 0) return <Box color="second">None of these texts has a date. Dates come with an import, or with “change” of marked texts.</Box>
          return (
            <>
              <Bars bars={bars} label={`spans of ${type} by ${step}`} chosen={stretch ? nameOf(stretch, step) : null} onChoose={(name) => setChosen(bins.find((one) => nameOf(one, step) === name)?.since ?? null)} />
              <Flex justify="space-between" align="center" color="second" mt="2" wrap="wrap">
                <span>{undated > 0 && `${plural(undated, 'text has', 'texts have')} no date and are left out.`}</span>
                <SaveAs name={`time-${type}`} title={`Spans of ${type} by ${step}`} bars={bars} />
              </Flex>
              {stretch && (
                <Sentences
                  wish={{ ...wish, of: type, ...(named.trim() === '' ? {} : { named: named.trim() }), first: stretch.since, last: stretch.until }}
                  said={nameOf(stretch, step)}
                />
              )}
            </>
          )
        }}
      </Ask>
    </>
  )
}
