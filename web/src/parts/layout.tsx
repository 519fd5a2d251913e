import { Box, Flex, Grid } from '@chakra-ui/react'
import { type ReactNode, useEffect, useRef } from 'react'

/** Left: what there is to go through. Middle: the thing itself. Right: what explains it. */
export function Columns({ left, children, right }: { left?: ReactNode; children: ReactNode; right?: ReactNode }) {
  const main = useRef<HTMLElement>(null)
  useEffect(() => {
    // Whoever comes here through the bar works here now: enter and space belong to the page.
    const focus = document.activeElement
    if (focus === null || focus === document.body || focus.closest('header')) main.current?.focus({ preventScroll: true })
  }, [])
  const columns = [left ? 'var(--chakra-sizes-left)' : '', 'minmax(0, 1fr)', right ? 'var(--chakra-sizes-right)' : '']
  return (
    <Grid templateColumns={columns.filter(Boolean).join(' ')} h="full" minH="0">
      {left && (
        <Flex direction="column" minH="0" borderRightWidth="1px" borderColor="hairline" bg="ground" as="nav">
          {left}
        </Flex>
      )}
      <Box as="main" ref={main} minH="0" overflow="auto" bg="paper" id="main" tabIndex={-1} outline="none">
        {children}
      </Box>
      {right && (
        <Box as="aside" minH="0" overflow="auto" borderLeftWidth="1px" borderColor="hairline" bg="ground" p="3.5">
          {right}
        </Box>
      )}
    </Grid>
  )
}

export function Heading({ children, side }: { children: ReactNode; side?: ReactNode }) {
  return (
    <Flex justify="space-between" align="baseline" gap="3" mb="1.5">
      <Box as="h2" fontSize="tiny" fontWeight="bold" color="second">
        {children}
      </Box>
      {side}
    </Flex>
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
  return (
    <Box {...(first ? {} : { borderTopWidth: '1px', borderColor: 'hairline', mt: '4', pt: '3.5' })}>{children}</Box>
  )
}

/** A place where nothing is yet: says what belongs there and offers the act that fills it. */
export function Empty({ children, act }: { children: ReactNode; act?: ReactNode }) {
  return (
    <Box p="5" color="second" maxW="prose">
      <Box mb={act ? '3' : '0'}>{children}</Box>
      {act}
    </Box>
  )
}
