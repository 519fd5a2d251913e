/** Numbers, dates and plurals as people read them. */
const LOCALE = 'en-GB'

const whole = new Intl.NumberFormat(LOCALE, { maximumFractionDigits: 0 })
const tenth = new Intl.NumberFormat(LOCALE, { minimumFractionDigits: 1, maximumFractionDigits: 1 })
const rules = new Intl.PluralRules(LOCALE)
const clock = new Intl.DateTimeFormat(LOCALE, { hour: '2-digit', minute: '2-digit' })
const day = new Intl.DateTimeFormat(LOCALE, { weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' })
const shortDay = new Intl.DateTimeFormat(LOCALE, { day: 'numeric', month: 'short' })

/** 1240 → 1 240, with a narrow space that does not break. */
export function number(value: number): string {
  return whole.format(value).replaceAll(',', '\u202f')
}

/** Count with its noun: plural(1, 'span') → 1 span. */
export function plural(count: number, one: string, many = `${one}s`): string {
  return `${number(count)} ${rules.select(count) === 'one' ? one : many}`
}

/** A share from 0 to 1 as 81.2; nothing where it is undefined. */
export function score(value: number | null | undefined): string {
  return value === null || value === undefined ? '–' : tenth.format(value * 100)
}

export function percent(part: number, all: number): string {
  return all === 0 ? '0 %' : `${whole.format((part / all) * 100)} %`
}

/** As percent, of what may not have been judged yet. */
export function share(part: number, all: number): string {
  return all === 0 ? '–' : percent(part, all)
}

/** A moment: the time if it was today, otherwise the day with it. */
export function moment(iso: string, now = new Date()): string {
  const then = new Date(iso)
  const time = clock.format(then)
  return then.toDateString() === now.toDateString() ? time : `${shortDay.format(then)} ${time}`
}

/** A calendar date (yyyy-mm-dd) in full. */
export function longDate(iso: string): string {
  return day.format(new Date(`${iso}T12:00:00`))
}
