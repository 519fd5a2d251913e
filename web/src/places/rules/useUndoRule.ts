import { useQuery } from '@tanstack/react-query'

import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { RuleActShown } from '../../api/schema'
import { useKeys } from '../../parts/keys'
import { tell } from '../../parts/notes'
import { useAct } from '../../parts/useAct'
import { latestRuleActQuery } from './queries'

/** `ctrl Z` undoes what this person did last to a rule or a fragment. */
export function useUndoRule(lead: boolean) {
  const project = useProject()
  const latest = useQuery({ ...latestRuleActQuery(project), enabled: lead }).data?.act
  const undo = useAct((act: RuleActShown) => body(api.POST('/api/projects/{project}/rules/acts/{number}/undo', { params: { path: { project, number: act.id } } })), {
    changes: 'rules',
    onDone: ({ left }, { said }) => tell(left === '' ? `Undone: ${said}.` : `Not undone: ${said}; ${left}.`),
  })
  useKeys(latest ? [{ keys: ['ctrl+z'], caps: ['ctrl', 'z'], label: 'undo', run: () => undo.run(latest) }] : [])
}
