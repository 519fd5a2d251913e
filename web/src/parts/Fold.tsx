import { Box } from '@chakra-ui/react'
import { type ReactNode, useState } from 'react'

/** Settings that few need: closed until somebody opens them, or until one of them is set. */
export function Fold({ title, open, children }: { title: string; open: boolean; children: ReactNode }) {
  const [shown, show] = useState(open)
  return (
    <Box asChild mb="2" borderTopWidth="1px" borderColor="hairline" pt="2">
      <details open={shown} onToggle={(event) => show(event.currentTarget.open)}>
        <Box asChild cursor="pointer" fontWeight="bold" mb={shown ? '2' : '0'}>
          <summary>{title}</summary>
        </Box>
        {shown && children}
      </details>
    </Box>
  )
}
