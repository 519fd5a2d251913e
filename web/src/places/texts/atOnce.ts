import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { TextActShown } from '../../api/schema'
import { tell } from '../../parts/notes'
import { useAct } from '../../parts/useAct'
import { plural } from '../../parts/words'

/** Undo something that was done to many texts at once. */
export function useUndo() {
  const project = useProject()
  return useAct((id: number) => body(api.POST('/api/projects/{project}/texts/acts/{act_id}/undo', { params: { path: { project, act_id: id } } })), {
    changes: 'texts',
    onDone: ({ texts, left }) =>
      tell(
        left === 0
          ? `Undone: ${plural(texts, 'text is', 'texts are')} as before.`
          : `Undone for ${plural(texts, 'text')}; ${plural(left, 'text', 'texts')} changed since and stayed as they are.`,
      ),
  })
}

/** Say what was done, with a way back. */
export function tellDone(act: TextActShown, undo: (id: number) => void): void {
  const said = act.kind === 'remove' ? `${plural(act.texts, 'text')} moved to the bin.` : `${plural(act.texts, 'text')} changed.`
  if (act.texts === 0) tell('They were so already; nothing changed.')
  else tell(said, { label: 'undo', onClick: () => undo(act.id) })
}
