import { type ComponentType, useEffect, useReducer } from 'react'

import { tellError } from './notes'

const loads: (() => Promise<unknown>)[] = []

/**
 * A component that nobody sees at first: it is loaded when it is drawn, or once the page stands, whichever is sooner.
 * Nothing stands in its place meanwhile, or what `face` draws. Where it cannot be loaded this is told, and it closes.
 */
export function later<P extends object>(load: () => Promise<ComponentType<P>>, face?: ComponentType<P>): ComponentType<P> {
  let Part: ComponentType<P> | undefined
  const fetch = async () => {
    Part ??= await load()
  }
  loads.push(fetch)
  return function Later(props: P) {
    const [, redraw] = useReducer((turn: number) => turn + 1, 0)
    useEffect(() => {
      if (Part) return
      fetch().then(redraw, (fault: unknown) => {
        tellError(fault)
        if ('onClose' in props && typeof props.onClose === 'function') (props.onClose as () => void)()
      })
      // Once: whoever wants it again opens it again.
      // eslint-disable-next-line react-hooks/exhaustive-deps
    }, [])
    const Shown = Part ?? face
    return Shown ? <Shown {...props} /> : null
  }
}

/** Load what comes later, so that it is there even when the server is not. */
export async function loadTheRest(): Promise<void> {
  for (const load of loads) await load().catch(() => undefined)
}
