import { type ComponentType, type HTMLAttributes, useEffect, useReducer, useState } from 'react'

import { tellError } from './notes'

const loads: (() => Promise<unknown>)[] = []

/**
 * A component that nobody sees at first: it is loaded when it is drawn, or once the page stands, whichever is sooner.
 * Nothing stands in its place meanwhile. Where it cannot be loaded this is told, and it closes.
 */
export function later<P extends object>(load: () => Promise<ComponentType<P>>): ComponentType<P> {
  const { part, fetch } = kept(load)
  return function Later(props: P) {
    const [, redraw] = useReducer((turn: number) => turn + 1, 0)
    useEffect(() => {
      if (part()) return
      fetch().then(redraw, (fault: unknown) => {
        tellError(fault)
        if ('onClose' in props && typeof props.onClose === 'function') (props.onClose as () => void)()
      })
      // Once: whoever wants it again opens it again.
      // eslint-disable-next-line react-hooks/exhaustive-deps
    }, [])
    const Part = part()
    return Part ? <Part {...props} /> : null
  }
}

/** A menu comes opened by the press that it was not there for. */
export interface Opened {
  opened: boolean
}

export type Trigger = Pick<HTMLAttributes<HTMLElement>, 'aria-haspopup' | 'aria-expanded' | 'onPointerEnter' | 'onClick'>

/**
 * A menu, loaded once the page stands, or when somebody points at its `face`, which stands in its place until it is pressed. The
 * menu comes opened then. It comes by nothing else: what is being pressed, or has the focus, must not be replaced.
 */
export function laterBehind<P extends object>(load: () => Promise<ComponentType<P & Opened>>, Face: ComponentType<P & Trigger>): ComponentType<P> {
  const { part, fetch } = kept(load)
  return function Later(props: P) {
    const [pressed, setPressed] = useState(false)
    const [, redraw] = useReducer((turn: number) => turn + 1, 0)
    const press = () => {
      setPressed(true)
      if (part()) return
      fetch().then(redraw, (fault: unknown) => {
        tellError(fault)
        setPressed(false)
      })
    }
    const Part = part()
    if (Part && pressed) return <Part {...props} opened />
    return <Face {...props} aria-haspopup="menu" aria-expanded={false} onPointerEnter={() => void fetch().catch(() => undefined)} onClick={press} />
  }
}

function kept<C>(load: () => Promise<C>) {
  let part: C | undefined
  const fetch = async () => {
    part ??= await load()
  }
  loads.push(fetch)
  return { part: () => part, fetch }
}

/** Load what comes later, so that it is there even when the server is not. */
export async function loadTheRest(): Promise<void> {
  for (const load of loads) await load().catch(() => undefined)
}
