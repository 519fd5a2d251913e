/** A named figure. */
export interface Bar {
  name: string
  count: number
}

const ROW = 22
const NAME = 220
const LENGTH = 420
const COUNT = 60

const escaped = (words: string) => words.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;')

/** Bars as a picture: names at the left, bars that begin at zero, figures at their ends. */
export function svgOf(title: string, bars: readonly Bar[]): string {
  const most = Math.max(1, ...bars.map(({ count }) => count))
  const rows = bars.map(({ name, count }, i) => {
    const y = (i + 1) * ROW + ROW / 2
    const length = (count / most) * LENGTH
    return [
      `<text x="${NAME - 8}" y="${y + 4}" text-anchor="end">${escaped(name)}</text>`,
      `<rect x="${NAME}" y="${y - 7}" width="${length.toFixed(1)}" height="14" fill="#0E6A73"/>`,
      `<text x="${(NAME + length + 6).toFixed(1)}" y="${y + 4}">${count}</text>`,
    ].join('\n')
  })
  const height = (bars.length + 1) * ROW + 12
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${NAME + LENGTH + COUNT}" height="${height}" font-family="sans-serif" font-size="13" fill="#17211F">`,
    `<title>${escaped(title)}</title>`,
    `<text x="8" y="18" font-weight="bold">${escaped(title)}</text>`,
    ...rows,
    '</svg>',
    '',
  ].join('\n')
}

/** Rows as a file of RFC 4180; what a spreadsheet would run is led by an apostrophe. */
export function csvOf(header: readonly string[], rows: readonly (readonly (string | number)[])[]): string {
  const cell = (value: string | number) => {
    const words = typeof value === 'string' && /^[=+\-@\t\r]/.test(value) ? `'${value}` : String(value)
    return /[",\r\n]/.test(words) ? `"${words.replaceAll('"', '""')}"` : words
  }
  return [header, ...rows].map((row) => `${row.map(cell).join(',')}\r\n`).join('')
}

/** Hand a file to whoever looks at the page. */
export function saveFile(name: string, type: string, content: string): void {
  const address = URL.createObjectURL(new Blob([content], { type }))
  const link = document.createElement('a')
  link.href = address
  link.download = name
  link.click()
  URL.revokeObjectURL(address)
}
