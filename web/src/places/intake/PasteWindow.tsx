import { useState } from 'react'

import { ChoiceField, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import type { Sent } from './sending'

const KINDS = [
  { value: 'txt', label: 'plain text' },
  { value: 'md', label: 'Markdown' },
  { value: 'csv', label: 'a table (CSV, or copied from a spreadsheet)' },
  { value: 'jsonl', label: 'JSON Lines' },
  { value: 'html', label: 'the source of a web page' },
  { value: 'eml', label: 'a mail with its head' },
  { value: 'bio', label: 'tokens with labels' },
  { value: 'conllu', label: 'CoNLL-U' },
]

/** What is pasted goes the way of a file. */
export function PasteWindow({ onClose, onDone }: { onClose: () => void; onDone: (file: Sent) => void }) {
  const [kind, setKind] = useState('txt')
  const [words, setWords] = useState('')
  const send = () => {
    if (words.trim() === '') return Promise.reject(new Error('Nothing has been pasted yet.'))
    const name = `pasted.${kind}`
    onDone({ name, file: new File([words], name) })
    return Promise.resolve()
  }
  return (
    <FormWindow title="Paste" send="look into it" fields={[]} wide onClose={onClose} onSend={send}>
      {() => (
        <>
          <ChoiceField label="what it is" value={kind} options={KINDS} onChange={setKind} />
          <TextField label="words" lines={14} mono value={words} onChange={setWords} autoFocus />
        </>
      )}
    </FormWindow>
  )
}
