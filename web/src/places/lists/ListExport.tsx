import { Box, Button } from '@chakra-ui/react'
import { useState } from 'react'

import { useProject } from '../../api/project'
import type { ListShown } from '../../api/schema'
import { ChoiceField, QuietAct } from '../../parts/controls'
import { Window } from '../../parts/Window'
import { plural } from '../../parts/words'

const FORMATS = [
  { value: 'csv', label: 'CSV', about: 'A row for each name, with its variants, identifier, note, and whether it is on. Can be imported again.' },
  { value: 'tsv', label: 'TSV', about: 'As CSV, with tabs between.' },
  { value: 'xlsx', label: 'workbook (xlsx)', about: 'As CSV, for spreadsheets.' },
  { value: 'jsonl', label: 'JSON Lines', about: 'An object for each name. Can be imported again.' },
  { value: 'turtle', label: 'SKOS, Turtle', about: 'A concept for each name: preferred and alternative labels, notation, definition.' },
  { value: 'json-ld', label: 'SKOS, JSON-LD', about: 'The same as JSON-LD.' },
  { value: 'lines', label: 'plain lines', about: 'A preferred name a line, and nothing else.' },
]

/** A list into a file. */
export function ListExport({ list, onClose }: { list: ListShown; onClose: () => void }) {
  const project = useProject()
  const [format, setFormat] = useState('csv')
  return (
    <Window
      title={`Export “${list.name}”`}
      onClose={onClose}
      footer={
        <>
          <QuietAct onClick={onClose}>close</QuietAct>
          <Button asChild>
            <a href={`/api/projects/${encodeURIComponent(project)}/lists/${list.id}/export?as=${format}`} download>
              export {plural(list.entries, 'name')}
            </a>
          </Button>
        </>
      }
    >
      <ChoiceField label="format" value={format} options={FORMATS} onChange={setFormat} />
      <Box color="second">{FORMATS.find(({ value }) => value === format)?.about}</Box>
    </Window>
  )
}
