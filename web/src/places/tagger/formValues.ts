import { ProblemError } from '../../api/client'
import type { SettingsHelp, SettingsWish } from '../../api/schema'

/** What stands in the form: words and numbers as typed, and what is ticked. */
export interface FormValues {
  plain: Record<string, string>
  features: readonly string[]
  types: readonly string[]
}

export function asValues(help: SettingsHelp, settings: SettingsWish | undefined): FormValues {
  const names = [...help.choices, ...help.settings].map((s) => [s.name, s.default] as const)
  const given: Record<string, string | number | string[] | undefined> = { ...settings }
  return {
    plain: Object.fromEntries(names.map(([name, standard]) => [name, (given[name] ?? standard).toString()])),
    features: settings?.features ?? help.features.map((f) => f.name),
    types: settings?.types ?? [],
  }
}

/** Settings to send. Throws ProblemError at the field of what is no number; ranges are the server's to judge. */
export function toSettings(help: SettingsHelp, { plain, features, types }: FormValues): SettingsWish {
  const numbers = help.settings.map(({ name, title }) => {
    const typed = plain[name]?.trim() ?? ''
    const value = typed === '' ? Number.NaN : Number(typed)
    if (Number.isNaN(value)) throw new ProblemError(422, { detail: `${title}: “${typed}” is not a number.`, field: name })
    return [name, value] as const
  })
  const words = help.choices.map(({ name }) => [name, plain[name] ?? ''] as const)
  const named: Record<string, string | number> = Object.fromEntries<string | number>([...words, ...numbers])
  // The names come from the server itself.
  return { ...named, features: [...features], types: [...types] } as unknown as SettingsWish
}

/** Settings that differ between two trainings: name, the one's value, the other's. */
export function differences(one: SettingsWish, other: SettingsWish): [string, string, string][] {
  const shown = (value: unknown) => (Array.isArray(value) ? value.join(', ') || 'all' : String(value))
  const others: Record<string, unknown> = { ...other }
  return Object.entries(one)
    .map(([name, value]): [string, string, string] => [name, shown(value), shown(others[name])])
    .filter(([, a, b]) => a !== b)
}
