import { Box } from '@chakra-ui/react'
import type { ReactNode } from 'react'

import { Ask, Stale } from './Ask'
import { Act, BadAct, QuietAct } from './controls'
import { Columns, Empty, Heading } from './layout'
import { RowList } from './RowList'
import type { Resource } from './useResource'
import type { Rest } from './usePages'
import { Sure } from './Window'

interface Row {
  id: number
}

interface ResourceListProps<R extends Row> {
  resource: Resource<R>
  /** What the list is of, and what stands at the right of its rows. */
  heading?: string
  figure?: string
  /** Between the heading and the rows. */
  above?: ReactNode
  /** Estimated height of a row in pixels. */
  height: number
  label: string
  row: (row: R) => ReactNode
  rest?: Rest
  /** Why none can be added now. */
  barred?: boolean
  /** What stands where rows would be when there are none. */
  none?: ReactNode
  /** Between the rows and the act that adds one. */
  below?: ReactNode
  /** What makes more of them, in place of the act that opens the form. */
  act?: ReactNode
}

/** What there is to go through, at the left. */
export function ResourceList<R extends Row>(props: ResourceListProps<R>) {
  const { resource, heading, figure, above, height, label, row, rest, below, act } = props
  const foot = act ?? (resource.may('add') && <AddAct resource={resource} barred={props.barred} />)
  return (
    <>
      {heading && (
        <Box px="3" pt="3">
          <Heading side={figure && <Box fontSize="tiny" color="second">{figure}</Box>}>{heading}</Heading>
        </Box>
      )}
      {above}
      <Stale query={resource.query} />
      <RowList
        rows={resource.rows ?? []}
        keyOf={({ id }) => id}
        chosen={resource.opened === 'add' ? null : (resource.chosen?.id ?? resource.wanted)}
        onChoose={resource.pick}
        height={height}
        label={label}
        rest={rest}
      >
        {row}
      </RowList>
      {resource.rows?.length === 0 && props.none}
      {below}
      {foot && (
        <Box p="3" borderTopWidth="1px" borderColor="hairline">
          {foot}
        </Box>
      )}
    </>
  )
}

/** The act that adds one. */
export function AddAct<R extends Row>({ resource, barred = false }: { resource: Resource<R>; barred?: boolean | undefined }) {
  return (
    <Act onClick={() => resource.open('add')} disabled={barred}>
      {resource.addLabel}
    </Act>
  )
}

/** Edit and delete, beside the title of the one that is open. */
export function ResourceActs<R extends Row>({ resource, children }: { resource: Resource<R>; children?: ReactNode }) {
  return (
    <>
      {children}
      {resource.may('edit') && <QuietAct onClick={() => resource.open('edit')}>edit</QuietAct>}
      {resource.may('delete') && <BadAct onClick={() => resource.open('delete')}>delete</BadAct>}
    </>
  )
}

interface ResourceSheetProps<R extends Row> {
  resource: Resource<R>
  /** Says what belongs here while there is none. */
  empty: ReactNode
  act?: ReactNode
  children: (row: R) => ReactNode
}

/** The one that is open, or why there is none. */
export function ResourceSheet<R extends Row>({ resource, empty, act, children }: ResourceSheetProps<R>) {
  const { query, chosen, rows, wanted, one, pick } = resource
  return (
    <Ask query={query}>
      {() => {
        if (chosen) return children(chosen)
        if (wanted !== null && rows && rows.length > 0) {
          return (
            <Box p="5" role="alert">
              <Box mb="2">
                There is no {one} {wanted} here. It may have been deleted.
              </Box>
              <QuietAct onClick={() => pick(null)}>open the first one</QuietAct>
            </Box>
          )
        }
        return <Empty act={act ?? (resource.may('add') && <AddAct resource={resource} />)}>{empty}</Empty>
      }}
    </Ask>
  )
}

interface WindowsOver<O> {
  /** Its form; nothing is passed for a new one. */
  form?: (open: O | undefined) => ReactNode
  /** What is lost when it is deleted, and the act's own name; where it can be deleted. */
  loss?: (open: O) => { name: string; act?: string; says: ReactNode }
  onDelete?: (open: O) => Promise<unknown>
}

interface ResourceWindowsProps<R extends Row, O extends Row> extends WindowsOver<O> {
  resource: Resource<R>
  /** The one that is edited or deleted: of the list, or as it is read by itself. */
  open: O | undefined
}

/** The windows over it: one to add, one to edit, and one that asks before it is deleted. */
export function ResourceWindows<R extends Row, O extends Row>({ resource, open, form, loss, onDelete }: ResourceWindowsProps<R, O>) {
  const { opened, close, deleted, one } = resource
  if (opened === 'add') return form?.(undefined)
  if (!open || opened === null) return null
  if (opened === 'edit') return form?.(open)
  if (!loss || !onDelete) return null
  const { name, act = 'delete', says } = loss(open)
  const remove = async () => {
    await onDelete(open)
    deleted(open)
  }
  return (
    <Sure title={`Delete the ${one} “${name}”?`} act={act} onClose={close} onSure={remove}>
      {says}
    </Sure>
  )
}

interface ResourcePlaceProps<R extends Row> extends ResourceListProps<R>, ResourceSheetProps<R>, WindowsOver<R> {
  /** What explains the open one. */
  right?: ReactNode
  /** What explains it needs room. */
  wide?: boolean
  /** Other windows. */
  windows?: ReactNode
}

/** A place of things in a list with one open: the three columns and the windows over them. */
export function ResourcePlace<R extends Row>(props: ResourcePlaceProps<R>) {
  const { resource, empty, act, children } = props
  return (
    <Columns left={<ResourceList {...props} />} right={props.right} wide={props.wide}>
      <ResourceSheet resource={resource} empty={empty} act={act}>
        {children}
      </ResourceSheet>
      <ResourceWindows {...props} open={resource.chosen} />
      {props.windows}
    </Columns>
  )
}
