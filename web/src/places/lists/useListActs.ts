import { api, body } from '../../api/client'
import { useProject } from '../../api/project'
import type { EntryShown, EntryWish, ListActShown, ListShown, ManyWish } from '../../api/schema'
import { tell } from '../../parts/notes'
import { useAct } from '../../parts/useAct'
import { plural } from '../../parts/words'

/** Undo something that was done to a list. */
export function useUndoList() {
  const project = useProject()
  return useAct((act: Pick<ListActShown, 'id' | 'said'>) => body(api.POST('/api/projects/{project}/lists/acts/{number}/undo', { params: { path: { project, number: act.id } } })), {
    changes: 'lists',
    onDone: ({ left }, { said }) => tell(left === 0 ? `Undone: ${said}.` : `Undone: ${said}; ${plural(left, 'name')} changed since and stayed.`),
  })
}

/** What an entry is sent as, with some of it changed. */
export const wishOf = ({ preferred, variants, note, identifier, on, source }: EntryShown, more: Partial<EntryWish> = {}): EntryWish => ({
  preferred,
  variants,
  note,
  identifier,
  on,
  source,
  ...more,
})

/** What is done to the entries of a list, one or many at a time; `onGone` hears which are deleted, before they are asked for again. */
export function useListActs(list: ListShown, onMany: () => void, onGone: (gone: (id: number) => boolean) => void, isMarked: (id: number) => boolean) {
  const project = useProject()
  const path = { project, list_id: list.id }
  const undo = useUndoList()
  const said = (act: ListActShown) => {
    onMany()
    tell(act.entries === 0 ? 'They were so already; nothing changed.' : `Done: ${act.said}.`, { label: 'undo', onClick: () => undo.run(act) })
  }
  // By its number alone: whoever turns a name off has no say in what else has become of it meanwhile.
  const toggle = useAct(
    ({ id, on }: EntryShown) => body(api.POST('/api/projects/{project}/lists/{list_id}/entries/switch', { params: { path }, body: { entries: [id], on: !on } })),
    { changes: 'lists' },
  )
  const add = useAct((wish: EntryWish) => body(api.POST('/api/projects/{project}/lists/{list_id}/entries', { params: { path }, body: wish })), {
    changes: 'lists',
    onDone: (made) => tell(`“${made.preferred}” is in the list now.`),
  })
  const remove = useAct((entry: EntryShown) => api.DELETE('/api/projects/{project}/lists/{list_id}/entries/{entry_id}', { params: { path: { ...path, entry_id: entry.id } } }), {
    changes: 'lists',
    onDone: (_, { id, preferred }) => {
      onGone((one) => one === id)
      tell(`“${preferred}” is deleted; Ctrl Z undoes that.`)
    },
  })
  const switchMany = useAct(
    ({ on, ...many }: ManyWish & { on: boolean }) => body(api.POST('/api/projects/{project}/lists/{list_id}/entries/switch', { params: { path }, body: { ...many, on } })),
    { changes: 'lists', onDone: said },
  )
  const removeMany = useAct((many: ManyWish) => body(api.POST('/api/projects/{project}/lists/{list_id}/entries/delete', { params: { path }, body: many })), {
    changes: 'lists',
    onDone: (act) => {
      onGone(isMarked)
      said(act)
    },
  })
  return { toggle, add, remove, switchMany, removeMany, undo }
}
