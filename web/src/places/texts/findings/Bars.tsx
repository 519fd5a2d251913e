import { Box, Flex } from '@chakra-ui/react'

import { QuietAct } from '../../../parts/controls'
import { number } from '../../../parts/words'
import { type Bar, csvOf, saveFile, svgOf } from './chart'

interface BarsProps {
  bars: readonly Bar[]
  /** What is counted. */
  label: string
  chosen: string | null
  onChoose: (name: string) => void
}

/** Bars from zero on, each a way to the sentences behind it. */
export function Bars({ bars, label, chosen, onChoose }: BarsProps) {
  const most = Math.max(1, ...bars.map(({ count }) => count))
  return (
    <Box role="list" aria-label={label} maxH="80" overflowY="auto" tabIndex={0}>
      {bars.map(({ name, count }) => (
        <Box key={name} role="listitem">
          <Flex asChild w="full" align="center" gap="2" px="1" py="0.5" textAlign="start" cursor="pointer" bg={name === chosen ? 'chosen' : undefined} _hover={{ bg: 'chosen' }}>
            <button type="button" aria-pressed={name === chosen} onClick={() => onChoose(name)}>
              <Box w="44" flexShrink="0" truncate title={name}>
                {name}
              </Box>
              <Box flex="1" h="3.5">
                <Box h="full" bg="action" style={{ width: `${(count / most) * 100}%` }} />
              </Box>
              <Box w="14" textAlign="end" fontVariantNumeric="tabular-nums">
                {number(count)}
              </Box>
            </button>
          </Flex>
        </Box>
      ))}
    </Box>
  )
}

/** The figures that are shown, as a picture or a table of one's own. */
export function SaveAs({ name, title, bars }: { name: string; title: string; bars: readonly Bar[] }) {
  return (
    <Flex gap="2">
      <QuietAct onClick={() => saveFile(`${name}.svg`, 'image/svg+xml', svgOf(title, bars))}>save as SVG</QuietAct>
      <QuietAct onClick={() => saveFile(`${name}.csv`, 'text/csv', csvOf(['name', 'spans'], bars.map((bar) => [bar.name, bar.count])))}>save as CSV</QuietAct>
    </Flex>
  )
}
