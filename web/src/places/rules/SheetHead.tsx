import type { ReactNode } from 'react'

import { BothVersions, staleOf, versionOf } from '../../parts/BothVersions'
import { Act, QuietAct } from '../../parts/controls'
import { Title } from '../../parts/layout'
import { Unsaved } from '../../parts/Unsaved'
import type { Sheet } from './useSheet'

interface SheetHeadProps {
  sheet: Sheet
  lead: boolean
  /** What else can be done with it while it is not being edited. */
  acts?: ReactNode
  children: ReactNode
}

/** The title of a rule or fragment with its acts, and what is asked before something is lost. */
export function SheetHead({ sheet, lead, acts, children }: SheetHeadProps) {
  const { editing, edit, cancel, save, busy, leaving, stay, error } = sheet
  const stale = staleOf(error)
  const side = editing ? (
    <>
      <QuietAct onClick={cancel}>cancel</QuietAct>
      <Act loading={busy} onClick={() => save()}>
        save
      </Act>
    </>
  ) : (
    <>
      <QuietAct onClick={edit}>edit</QuietAct>
      {acts}
    </>
  )
  return (
    <>
      <Title side={lead && side}>{children}</Title>
      {leaving && <Unsaved onDiscard={cancel} onGoOn={stay} />}
      {stale && <BothVersions stale={stale} onMine={() => save(versionOf(stale))} onTheirs={cancel} />}
    </>
  )
}
