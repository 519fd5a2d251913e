import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import type { PipelineVersionShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { QuietAct } from '../../parts/controls'
import { Heading } from '../../parts/layout'
import { moment } from '../../parts/words'
import { samePlan } from './plan'
import { versionsQuery } from './queries'
import type { PlanDraft } from './useDraft'

/** Every version that was saved. One goes back to one as with any other change: it is looked at first, and saved as a new one. */
export function Versions({ draft, now, lead }: { draft: PlanDraft; now: PipelineVersionShown; lead: boolean }) {
  const project = useProject()
  const query = useQuery(versionsQuery(project))
  return (
    <>
      <Box px="3" pt="2.5">
        <Heading>Versions</Heading>
      </Box>
      <Ask query={query}>
        {(versions) => (
          <Box as="ul" listStyleType="none" aria-label="versions">
            {versions.map((version) => (
              <Box as="li" key={version.number} px="3" py="1.5" borderTopWidth="1px" borderColor="hairline" bg={samePlan(version.plan, draft.plan) ? 'chosen' : undefined}>
                <Box>
                  <b>{version.number === 0 ? 'as every project begins' : `version ${version.number}`}</b>
                  {version.number === now.number && <Box as="span" color="second"> · now</Box>}
                </Box>
                <Box fontSize="small" color="second">
                  {version.said}
                </Box>
                {version.created_at && (
                  <Box fontSize="small" color="second">
                    {moment(version.created_at)}
                    {version.by && ` · ${version.by}`}
                  </Box>
                )}
                {lead && !samePlan(version.plan, draft.plan) && (
                  <QuietAct aria-label={`try version ${version.number}`} onClick={() => draft.change(version.plan)}>
                    try it
                  </QuietAct>
                )}
              </Box>
            ))}
          </Box>
        )}
      </Ask>
    </>
  )
}
