import { Box } from '@chakra-ui/react'

import { api, body } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { TextShown } from '../../api/schema'
import { LinkAct } from '../../parts/controls'
import { Section } from '../../parts/layout'
import { useAct } from '../../parts/useAct'

/** Whether words that a mail quotes, and its signature, are annotated like the rest. */
export function Aside({ text }: { text: TextShown }) {
  const project = useProject()
  const lead = useIsLead()
  const { aside_annotated: annotated } = text
  const change = useAct(
    () => body(api.PUT('/api/projects/{project}/texts/{text_id}/aside', { params: { path: { project, text_id: text.id } }, body: { annotated: !annotated } })),
    { changes: 'texts' },
  )
  return (
    <Section>
      <Box color="second">
        {annotated ? 'Quoted words and the signature are annotated like the rest. ' : 'Quoted words and the signature are not annotated. '}
        {lead && (
          <LinkAct disabled={change.busy} onClick={() => change.run()}>
            {annotated ? 'leave them out' : 'annotate them too'}
          </LinkAct>
        )}
      </Box>
    </Section>
  )
}
