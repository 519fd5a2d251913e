import { Box, EmptyState, Flex } from '@chakra-ui/react'
import { type ReactNode, useEffect, useRef } from 'react'

/** Left: what there is to go through. Middle: the thing itself. Right: what explains it. */
export function Columns({ left, children, right, wide = false }: { left?: ReactNode; children: ReactNode; right?: ReactNode; wide?: boolean | undefined }) {
  const main = useRef<HTMLElement>(null)
  useEffect(() => {
    // Whoever comes here through the bar works here now: enter and space belong to the page.
    const focus = document.activeElement
    if (focus === null || focus === document.body || focus.closest('header')) main.current?.focus({ preventScroll: true })
  }, [])
  const columns = [left ? 'var(--chakra-sizes-left)' : '', 'minmax(0, 1fr)', right ? `var(--chakra-sizes-${wide ? 'wide' : 'right'})` : '']
  return (
    <div className="columns" style={{ gridTemplateColumns: columns.filter(Boolean).join(' ') }}>
      {left && <nav>{left}</nav>}
      <main ref={main} id="main" tabIndex={-1}>
        {children}
      </main>
      {right && <aside>{right}</aside>}
    </div>
  )
}

export function Heading({ children, side }: { children: ReactNode; side?: ReactNode }) {
  return (
    <div className="heading">
      <h2>{children}</h2>
      {side}
    </div>
  )
}

export function Title({ children, side }: { children: ReactNode; side?: ReactNode }) {
  return (
    <Flex justify="space-between" align="center" gap="4" mb="3" wrap="wrap">
      <Box as="h1" fontFamily="heading" fontSize="head" lineHeight="short">
        {children}
      </Box>
      {side && (
        <Flex gap="2" align="center">
          {side}
        </Flex>
      )}
    </Flex>
  )
}

export function Section({ children, first = false }: { children: ReactNode; first?: boolean }) {
  return <div className={first ? undefined : 'section'}>{children}</div>
}

/** A place where nothing is yet: says what belongs there and offers the act that fills it. */
export function Empty({ children, act }: { children: ReactNode; act?: ReactNode }) {
  return (
    <EmptyState.Root>
      <EmptyState.Content>
        <EmptyState.Title asChild>
          <h1>Nothing here yet</h1>
        </EmptyState.Title>
        <EmptyState.Description>{children}</EmptyState.Description>
        {act}
      </EmptyState.Content>
    </EmptyState.Root>
  )
}
