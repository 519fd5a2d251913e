import { Box } from '@chakra-ui/react'
import { useState } from 'react'

import { api, body, messageOf } from '../../api/client'
import { useProject } from '../../api/project'
import type { TemplateShown } from '../../api/schema'
import { FileField, QuietAct } from '../../parts/controls'
import { useAct } from '../../parts/useAct'
import { Window } from '../../parts/Window'

interface SchemaWindowProps {
  onClose: () => void
  onDone: (template: TemplateShown) => void
}

/** A record template from a JSON Schema document. */
export function SchemaWindow({ onClose, onDone }: SchemaWindowProps) {
  const project = useProject()
  const [fault, setFault] = useState<string>()
  const send = useAct(
    async (file: File) => {
      setFault(undefined)
      try {
        const document = JSON.parse(await file.text()) as unknown
        if (typeof document !== 'object' || document === null || Array.isArray(document)) throw new SyntaxError()
        return await body(
          api.POST('/api/projects/{project}/records/templates/schema', {
            params: { path: { project } },
            body: { schema_document: document as Record<string, unknown> },
          }),
        )
      } catch (error) {
        setFault(error instanceof SyntaxError ? 'This file is no JSON document.' : messageOf(error))
        return null
      }
    },
    { changes: 'records', onDone: (made) => made && onDone(made) },
  )
  return (
    <Window title="Template from a JSON Schema" onClose={onClose} stays footer={<QuietAct onClick={onClose}>cancel</QuietAct>}>
      <Box mb="3">
        Each property becomes a field. One that does not say which types fill it takes the type that is called like it. What the
        export writes can be read here again.
      </Box>
      <FileField label="JSON Schema, draft 2020-12" accept=".json,application/schema+json" error={fault} disabled={send.busy} onChoose={(file) => send.run(file)} />
    </Window>
  )
}
