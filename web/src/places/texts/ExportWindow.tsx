import { Box, Button, Grid } from '@chakra-ui/react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useDeferredValue, useState } from 'react'

import { useProject } from '../../api/project'
import { Ask } from '../../parts/Ask'
import { CheckField, ChoiceField, QuietAct, TextField } from '../../parts/controls'
import { Window } from '../../parts/Window'
import { plural } from '../../parts/words'
import { addressOf, type CorpusWish, layersQuery, previewQuery, type TextsWish } from './queries'
import { SPLITS } from './TextForm'

type Format = NonNullable<CorpusWish['format']>

const FORMATS: readonly { value: Format; label: string; about: string }[] = [
  { value: 'jsonl', label: 'JSON Lines', about: 'A line for each text, with all that is said of it, its sentences and its spans. Made to be imported again.' },
  { value: 'bio', label: 'BIO columns', about: 'A token a line with its label: B begins a span, I goes on with it, O is outside.' },
  { value: 'bilou', label: 'BILOU columns', about: 'As BIO; L ends a span, U is one of a single token.' },
  { value: 'conllu', label: 'CoNLL-U', about: 'A word a line in ten columns. Spans stand in the last one.' },
  { value: 'annotations', label: 'Web Annotation', about: 'JSON-LD as the W3C has it: a page of annotations for each text, which select by position and by quotation.' },
  { value: 'csv', label: 'CSV', about: 'A row for each text, and a column for each type with its values from signed sentences.' },
]
const COLUMNS: readonly Format[] = ['bio', 'bilou']
const GOLD = ''

/** The corpus into a file: chosen here, seen before it is made. */
export function ExportWindow({ shown, onClose }: { shown?: { wish: TextsWish; count: number } | undefined; onClose: () => void }) {
  const project = useProject()
  const [format, setFormat] = useState<Format>('jsonl')
  const [split, setSplit] = useState('')
  const [group, setGroup] = useState('')
  const [layer, setLayer] = useState(GOLD)
  const [unsigned, setUnsigned] = useState(false)
  const [bare, setBare] = useState(false)
  const [folds, setFolds] = useState('')
  const [onlyShown, setOnlyShown] = useState(shown !== undefined)
  const [seed, setSeed] = useState('1')
  const layers = useQuery(layersQuery(project)).data?.filter(({ kind }) => kind !== 'gold') ?? []
  const inColumns = COLUMNS.includes(format)
  const count = numberIn(folds)
  const badFolds = folds.trim() !== '' && (count === null || count < 2 || count > 100) ? 'a number from 2 to 100, or nothing' : undefined
  const badSeed = numberIn(seed) === null ? 'a whole number' : undefined
  const isWrong = badFolds !== undefined || badSeed !== undefined
  const wish: CorpusWish = {
    ...(onlyShown ? shown?.wish : {}),
    format,
    ...(split === '' ? {} : { split }),
    ...(group.trim() === '' ? {} : { group: group.trim() }),
    unsigned,
    ...(inColumns && bare ? { bare } : {}),
    ...(layer === GOLD ? {} : { layer: Number(layer) }),
    ...(count === null ? {} : { folds: count, seed: numberIn(seed) ?? 1 }),
  }
  // A letter more of a group's name is not waited for.
  const asked = useDeferredValue(JSON.stringify(wish))
  const preview = useQuery({ ...previewQuery(project, JSON.parse(asked) as CorpusWish), enabled: !isWrong, placeholderData: keepPreviousData })
  const isEmpty = preview.data?.lines.length === 0
  return (
    <Window
      title="Export the corpus"
      wide
      stays
      onClose={onClose}
      footer={
        <>
          <QuietAct onClick={onClose}>close</QuietAct>
          {isWrong || isEmpty ? (
            <Button disabled>export</Button>
          ) : (
            <Button asChild>
              <a href={addressOf(project, wish)} download>
                export
              </a>
            </Button>
          )}
        </>
      }
    >
      <Grid templateColumns="repeat(auto-fill, minmax(var(--chakra-sizes-48), 1fr))" gap="3" mb="3" alignItems="start">
        <ChoiceField label="format" value={format} options={FORMATS} onChange={(value) => setFormat(value as Format)} />
        <ChoiceField label="split" value={split} onChange={setSplit} options={[{ value: '', label: 'all splits' }, ...SPLITS]} />
        <TextField label="group" value={group} onChange={setGroup} help="empty for all" />
        {layers.length > 0 && (
          <ChoiceField
            label="whose annotation"
            value={layer}
            onChange={setLayer}
            options={[{ value: GOLD, label: 'gold' }, ...layers.map(({ id, name }) => ({ value: String(id), label: name }))]}
          />
        )}
        <TextField label="folds" value={folds} onChange={setFolds} help="empty for none; groups stay whole" error={badFolds} />
        {count !== null && <TextField label="seed" value={seed} onChange={setSeed} help="draws the folds" error={badSeed} />}
      </Grid>
      <Box color="second" mb="3">
        {FORMATS.find(({ value }) => value === format)?.about}
      </Box>
      <Grid gap="2" mb="4">
        {shown && <CheckField label={`only the ${plural(shown.count, 'text')} that the list shows`} checked={onlyShown} onChange={setOnlyShown} />}
        <CheckField label="texts without a signed sentence as well" checked={unsigned} onChange={setUnsigned} />
        {inColumns && <CheckField label="tokens and labels of signed sentences alone, for programs that know no remarks" checked={bare} onChange={setBare} />}
      </Grid>
      <Ask query={preview}>
        {({ lines, more }) =>
          isEmpty ? (
            <Box color="second">No text fits. Choose another split or group, or texts without a signed sentence as well.</Box>
          ) : (
            <Box
              as="pre"
              tabIndex={0}
              role="region"
              aria-label="how the file begins"
              aria-busy={preview.isPlaceholderData || undefined}
              fontFamily="mono"
              fontSize="small"
              bg="ground"
              p="3"
              maxH="72"
              overflow="auto"
              style={{ tabSize: 16 }}
            >
              {lines.join('\n')}
              {more && '\n…'}
            </Box>
          )
        }
      </Ask>
    </Window>
  )
}

function numberIn(words: string): number | null {
  return /^\s*\d{1,9}\s*$/.test(words) ? Number(words) : null
}
