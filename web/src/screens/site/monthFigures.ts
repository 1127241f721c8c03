/** Twelve figures, one to a month, or what keeps a text from being read as such. */
export type MonthsRead = { months: number[] } | { problem: string }

const dated = /^"?(\d{4})-(\d{2})(?:-\d{2})?"?$/

/**
 * Reads degree-days: twelve rows in the order of the months, or twelve numbers in one row; or rows that begin with a day or month, such
 * as 2025-07-14 or 2025-07, of one year or several: they are added up by month, and the mean of the years taken. The last number of a row
 * counts. A first row of names is passed over.
 */
export function readMonths(text: string): MonthsRead {
  const rows = text
    .replace(/^\ufeff/, '')
    .split(/\r?\n/)
    .map((row, i) => ({ line: i + 1, cells: row.split(/[\t;,]/).map((c) => c.trim()) }))
    .filter((r) => r.cells.some((c) => /\d/.test(c)))
  // A first row of names may hold a figure, too, such as the base of the degree-days.
  if (rows.length > 12 && !Number.isFinite(Number(rows[0]?.cells.at(-1)))) rows.shift()
  if (rows.length === 1 && rows[0]) {
    const one = rows[0].cells.length > 1 ? rows[0].cells : (rows[0].cells[0] ?? '').split(/\s+/)
    return twelve(one.map(Number), 'one row')
  }
  const stamps = rows.map((r) => dated.exec(r.cells[0] ?? ''))
  const values: number[] = []
  for (const r of rows) {
    const v = Number((r.cells.at(-1) ?? '').replace(/"/g, ''))
    if (!Number.isFinite(v) || v < 0)
      return { problem: `Line ${r.line}: “${r.cells.at(-1) ?? ''}” is not a number of 0 or more.` }
    values.push(v)
  }
  if (!stamps.some(Boolean)) return twelve(values, 'the rows')
  const sums = Array.from({ length: 12 }, () => 0)
  const seen = new Set<string>()
  for (const [i, stamp] of stamps.entries()) {
    const month = Number(stamp?.[2])
    if (!stamp || month < 1 || month > 12)
      return {
        problem: `Line ${rows[i]?.line}: begin it with a day or month, such as 2025-07-14 or 2025-07.`,
      }
    sums[month - 1] = (sums[month - 1] ?? 0) + (values[i] ?? 0)
    seen.add(`${stamp[1]}-${stamp[2]}`)
  }
  const times = (m: number) => [...seen].filter((s) => Number(s.slice(5)) === m).length
  const missing = sums.findIndex((_, i) => times(i + 1) === 0)
  if (missing >= 0) return { problem: `Nothing is said of month ${missing + 1}.` }
  return { months: sums.map((s, i) => s / times(i + 1)) }
}

function twelve(numbers: number[], where: string): MonthsRead {
  if (numbers.length !== 12 || numbers.some((n) => !Number.isFinite(n) || n < 0))
    return { problem: `There must be twelve numbers of 0 or more; ${where} held ${numbers.length}.` }
  return { months: numbers }
}
