import { Box, Button, Flex } from '@chakra-ui/react'
import { type DragEvent, useRef, useState } from 'react'

import { BadAct } from '../../parts/controls'
import { tellError } from '../../parts/notes'
import { Meter } from '../../parts/signs'
import { number, plural } from '../../parts/words'
import { chosen, dropped, type Sent } from './sending'
import type { Far } from './useSending'

/** Where files are dropped or chosen, one or many or a whole folder. */
export function Files({ take, busy, large = false }: { take: (files: Sent[]) => void; busy: boolean; large?: boolean }) {
  const [over, setOver] = useState(false)
  const files = useRef<HTMLInputElement>(null)
  const folder = useRef<HTMLInputElement>(null)
  const onDrop = (event: DragEvent) => {
    event.preventDefault()
    setOver(false)
    if (!busy) void dropped(event.dataTransfer.items).then(take, tellError)
  }
  const onChosen = (input: HTMLInputElement) => {
    take(chosen(input.files ?? []))
    // The same files can be chosen again.
    input.value = ''
  }
  return (
    <Flex
      direction={large ? 'column' : 'row'}
      align="center"
      justify="center"
      gap="3"
      wrap="wrap"
      p={large ? '10' : '3'}
      mb="3"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor={over ? 'action' : 'edge'}
      bg={over ? 'ground' : undefined}
      onDragOver={(event) => {
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => setOver(false)}
      onDrop={onDrop}
    >
      <Box color="second">{large ? 'Drop files or folders here, or choose them.' : 'Drop more files here, or'}</Box>
      <Flex gap="2">
        <Button variant={large ? 'solid' : 'ghost'} disabled={busy} onClick={() => files.current?.click()}>
          choose files
        </Button>
        <Button variant="ghost" disabled={busy} onClick={() => folder.current?.click()}>
          choose a folder
        </Button>
      </Flex>
      <input ref={files} type="file" multiple hidden aria-label="files to import" onChange={(event) => onChosen(event.target)} />
      <input ref={folder} type="file" hidden aria-label="folder to import" {...{ webkitdirectory: '' }} onChange={(event) => onChosen(event.target)} />
    </Flex>
  )
}

/** How far the files are on their way. */
export function Sending({ far, onStop }: { far: Far; onStop: () => void }) {
  return (
    <Flex align="center" gap="4" mb="3" role="status">
      <Box flex="1">
        <Meter done={far.bytes} all={far.whole} label="bytes sent" />
      </Box>
      <Box color="second" fontVariantNumeric="tabular-nums">
        {number(far.files)} of {plural(far.of, 'file')} sent · {size(far.bytes)} of {size(far.whole)}
      </Box>
      <BadAct onClick={onStop}>stop</BadAct>
    </Flex>
  )
}

export function size(bytes: number): string {
  if (bytes < 1000) return plural(bytes, 'byte')
  return bytes < 1_000_000 ? `${Math.round(bytes / 1000)} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`
}
