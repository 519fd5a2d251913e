import { lazy, Suspense } from 'react'

import { useProject } from '../../api/project'
import { ProblemError } from '../../api/client'
import { useScheme } from '../../api/useScheme'
import { useQuery } from '@tanstack/react-query'
import { Labelled, TextField } from '../../parts/controls'
import { fragmentsQuery, languageQuery, listNamesQuery } from './queries'

const PatternEditor = lazy(() => import('./PatternEditor'))
const NONE: never[] = []

interface PatternFieldProps {
  label: string
  value: string
  onChange: (value: string) => void
  /** What was answered to it, if it is about the pattern. */
  problem: unknown
  help?: string
}

/** The field in which a pattern is written; a plain one until the editor is there. */
export function PatternField({ label, value, onChange, problem, help }: PatternFieldProps) {
  const project = useProject()
  const { types } = useScheme()
  const lists = useQuery(listNamesQuery(project))
  const fragments = useQuery(fragmentsQuery(project))
  const language = useQuery(languageQuery(project))
  const fault = faultOf(problem)
  return (
    <Suspense fallback={<TextField label={label} value={value} mono lines={4} error={fault?.message} onChange={onChange} />}>
      <Labelled label={label} help={help} error={fault?.message}>
        <PatternEditor
          label={label}
          value={value}
          onChange={onChange}
          names={{ types, lists: lists.data ?? NONE, fragments: fragments.data?.map(({ name }) => name) ?? NONE, tags: language.data?.tags ?? NONE, kinds: language.data?.kinds ?? NONE }}
          fault={fault}
        />
      </Labelled>
    </Suspense>
  )
}

function faultOf(problem: unknown) {
  if (!(problem instanceof ProblemError) || problem.field !== 'pattern') return undefined
  const { offset, end } = problem.more
  const start = typeof offset === 'number' ? offset : 0
  return { message: problem.message, start, end: typeof end === 'number' ? end : start + 1 }
}
