import { Box, Grid } from '@chakra-ui/react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import { useScheme } from '../../api/useScheme'
import { ChoiceField, LinkAct, SuggestField, TextField } from '../../parts/controls'
import { useSettled } from '../../parts/useSettled'
import { number } from '../../parts/words'
import { pairOf, splitPair, type TextFilter, wishOf } from './filter'
import { facetQuery, metaNamesQuery } from './queries'

interface FilterFormProps {
  filter: TextFilter
  onChange: (change: Partial<TextFilter>) => void
}

/** What else texts have to be, each with how many there are of it. */
export function FilterForm({ filter, onChange }: FilterFormProps) {
  const project = useProject()
  const { types } = useScheme()
  const names = useQuery(metaNamesQuery(project)).data?.names ?? []
  const held = new Map(filter.meta.map(splitPair))
  const setMeta = (name: string) => (value: string) => {
    const others = filter.meta.filter((pair) => splitPair(pair)[0] !== name)
    onChange({ meta: value === '' ? others : [...others, pairOf(name, value)] })
  }
  const lacking = (name: TextFilter['lacks'][number]) => filter.lacks.includes(name)
  const setOf = (name: 'group' | 'source') => (value: string) => {
    const lacks = filter.lacks.filter((other) => other !== name)
    onChange(value === NONE ? { [name]: '', lacks: [...lacks, name] } : { [name]: value, lacks })
  }
  const typeName = (code: string) => `${code} ${types.find((type) => type.code === code)?.name ?? ''}`
  return (
    <Box role="group" aria-label="filter" maxH="64" overflowY="auto" pb="2">
      <Grid templateColumns="repeat(2, minmax(0, 1fr))" columnGap="2">
        <Facet label="split" of="split" value={filter.split} filter={filter} say={(value) => (value === 'none' ? 'no split' : value)} onChange={(split) => onChange({ split })} />
        <Facet label="state" of="state" value={filter.state} filter={filter} onChange={(state) => onChange({ state })} />
        <Facet label="group" of="group" value={lacking('group') ? NONE : filter.group} filter={filter} onChange={setOf('group')} />
        <Facet label="source" of="source" value={lacking('source') ? NONE : filter.source} filter={filter} onChange={setOf('source')} />
        <Facet label="type in gold" of="type" value={filter.type} filter={filter} say={typeName} onChange={(type) => onChange({ type, value: '' })} />
        {filter.type !== '' && <Facet label={`${filter.type} is`} of="value" value={filter.value} filter={filter} onChange={(value) => onChange({ value })} />}
        {names.map((name) => (
          <Facet key={name} label={name} of={`meta:${name}`} value={held.get(name) ?? ''} filter={filter} onChange={setMeta(name)} />
        ))}
      </Grid>
      <Grid>
        <TextField label="dated from" type="date" value={filter.since} onChange={(since) => onChange({ since, lacks: filter.lacks.filter((name) => name !== 'dated') })} />
        <TextField label="to" type="date" value={filter.until} onChange={(until) => onChange({ until, lacks: filter.lacks.filter((name) => name !== 'dated') })} />
      </Grid>
      <LinkAct onClick={() => onChange({ since: '', until: '', lacks: lacking('dated') ? filter.lacks.filter((name) => name !== 'dated') : [...filter.lacks, 'dated'] })}>
        {lacking('dated') ? 'with a date or without' : 'only those without a date'}
      </LinkAct>
    </Box>
  )
}

/** Stands for texts that have none. */
const NONE = ' '

interface FacetProps {
  label: string
  of: string
  value: string
  filter: TextFilter
  say?: (value: string) => string
  onChange: (value: string) => void
}

function Facet({ label, of, value, filter, say = (word) => word, onChange }: FacetProps) {
  // Each facet is a question: they are asked when the typing pauses.
  const settled = useSettled(wishOf(filter))
  const query = useQuery({ ...facetQuery(useProject(), of, settled), placeholderData: keepPreviousData })
  const found = query.data?.values ?? []
  if (query.data?.more) {
    // Too many to choose from: the most frequent ones are suggested.
    const suggestions = found.filter((one) => one.value !== '').map((one) => ({ value: one.value, label: number(one.texts) }))
    return <SuggestField label={label} value={value === NONE ? '' : value} suggestions={suggestions} onChange={onChange} />
  }
  const options = found.map((one) => ({ value: one.value === '' ? NONE : one.value, label: `${one.value === '' ? 'none' : say(one.value)} · ${number(one.texts)}` }))
  const missing = value !== '' && !options.some((option) => option.value === value) ? [{ value, label: `${value === NONE ? 'none' : say(value)} · 0` }] : []
  return <ChoiceField label={label} value={value} options={[{ value: '', label: 'any' }, ...options, ...missing]} onChange={onChange} />
}
