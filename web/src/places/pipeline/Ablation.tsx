import { Box, chakra } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'

import { api } from '../../api/client'
import { useProject } from '../../api/project'
import type { AblationRowShown, AblationShown, PipelinePlan } from '../../api/schema'
import { Act, QuietAct } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { useAct } from '../../parts/useAct'
import { Working, isOver } from '../../parts/Working'
import { number, plural, score } from '../../parts/words'
import { points } from './figures'
import { without } from './plan'
import { ablationQuery } from './queries'

interface AblationProps {
  plan: PipelinePlan
  barred: boolean
  lead: boolean
  onTry: (plan: PipelinePlan) => void
}

/** The whole, each stage alone, and the whole without each, on signed dev texts. */
export function Ablation({ plan, barred, lead, onTry }: AblationProps) {
  const project = useProject()
  const { data } = useQuery(ablationQuery(project))
  const start = useAct(() => api.POST('/api/projects/{project}/pipeline/ablation', { params: { path: { project } }, body: plan }), { changes: 'jobs' })
  const going = data && !isOver(data.job)
  const offTo = (stage: string) => (plan.stages.some(({ name }) => name === stage) ? () => onTry(without(plan, stage)) : undefined)
  return (
    <Box role="region" aria-label="ablation">
      <Heading
        side={
          lead &&
          !going && (
            <Act loading={start.busy} disabled={barred} onClick={() => start.run()}>
              compare the stages
            </Act>
          )
        }
      >
        What each stage is worth
      </Heading>
      {going && <Working job={data.job} label="pipelines compared" mayStop={lead} />}
      {data && !going && data.job.state !== 'done' && (
        <Box color="bad" role="alert">
          {data.job.message}
        </Box>
      )}
      {data && data.rows.length > 0 && <Rows found={data} lead={lead} offTo={offTo} />}
      {!data && <Box color="second">The whole pipeline, each stage alone, and the whole without each are held against signed dev texts.</Box>}
    </Box>
  )
}

const Th = ({ children, left = false }: { children?: ReactNode; left?: boolean }) => (
  <chakra.th fontSize="tiny" color="second" fontWeight="bold" textAlign={left ? 'left' : 'right'} px="2" pb="1" scope="col">
    {children}
  </chakra.th>
)
const Td = ({ children, left = false, span }: { children?: ReactNode; left?: boolean; span?: number }) => (
  <chakra.td textAlign={left ? 'left' : 'right'} px="2" py="1" whiteSpace="nowrap" colSpan={span}>
    {children}
  </chakra.td>
)

function Rows({ found, lead, offTo }: { found: AblationShown; lead: boolean; offTo: (stage: string) => (() => void) | undefined }) {
  return (
    <>
      <Box color="second" mb="1">
        {plural(found.sentences, 'signed sentence')} of {plural(found.texts, 'dev text')}
        {found.changes.length > 0 && (
          <Box as="span" color="gold">
            {' '}
            · the pipeline is another now: {found.changes.join('; ')}
          </Box>
        )}
      </Box>
      <chakra.table w="full" fontVariantNumeric="tabular-nums" aria-label="stages compared">
        <thead>
          <tr>
            <Th left>pipeline</Th>
            <Th>right of found</Th>
            <Th>F1</Th>
            <Th>95 % interval</Th>
            <Th>against the whole</Th>
            <Th>95 % interval</Th>
            <Th />
          </tr>
        </thead>
        <tbody>
          {found.rows.map((row) => {
            const off = lead && row.how === 'without' ? offTo(row.stage) : undefined
            return (
              <chakra.tr key={`${row.how} ${row.stage}`} borderTopWidth="1px" borderColor="hairline">
                <Td left>{NAMES[row.how](row.stage)}</Td>
                {row.fault ? (
                  <Td left span={5}>
                    {row.fault}
                  </Td>
                ) : (
                  <Figures row={row} />
                )}
                <Td>
                  {off && (
                    <QuietAct aria-label={`try without ${row.stage}`} onClick={off}>
                      try it
                    </QuietAct>
                  )}
                </Td>
              </chakra.tr>
            )
          })}
        </tbody>
      </chakra.table>
    </>
  )
}

const NAMES: Record<AblationRowShown['how'], (stage: string) => string> = {
  whole: () => 'the whole',
  alone: (stage) => `${stage} alone`,
  without: (stage) => `without ${stage}`,
}

function Figures({ row }: { row: AblationRowShown }) {
  const { against } = row
  const sure = against?.low != null && against.high !== null && (against.low > 0 || against.high < 0)
  const between = (low: number | null | undefined, high: number | null | undefined, tell: (share: number) => string) => (low == null || high == null ? '–' : `${tell(low)} to ${tell(high)}`)
  return (
    <>
      <Td>
        {number(row.right)} of {number(row.found)}
      </Td>
      <Td>
        <b>{score(row.f1)}</b>
      </Td>
      <Td>{between(row.f1_low, row.f1_high, score)}</Td>
      <Td>{row.how === 'whole' ? '' : <Box color={sure ? (against.f1 > 0 ? 'good' : 'bad') : 'second'}>{against ? points(against.f1) : '–'}</Box>}</Td>
      <Td>{row.how === 'whole' ? '' : between(against?.low, against?.high, points)}</Td>
    </>
  )
}
