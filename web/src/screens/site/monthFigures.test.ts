import { describe, expect, it } from 'vitest'

import { readMonths } from './monthFigures'

const year = [0, 0, 5, 20, 60, 110, 160, 140, 70, 15, 0, 0]

describe('degree-days by month', () => {
  it('takes twelve rows, with names or without, and one row', () => {
    expect(readMonths(year.join('\n'))).toEqual({ months: year })
    expect(readMonths('month,degree days\r\n' + year.map((v, i) => `M${i + 1},${v}`).join('\r\n'))).toEqual({
      months: year,
    })
    expect(readMonths(year.join('; '))).toEqual({ months: year })
    expect(readMonths(year.join(' '))).toEqual({ months: year })
  })

  it('adds days up by month and takes the mean of years', () => {
    const rows = ['date,base,CDD 18 °C']
    for (const [y, times] of [
      [2024, 1],
      [2025, 3],
    ] as const)
      for (let m = 1; m <= 12; m++)
        for (const d of ['05', '20'])
          rows.push(`${y}-${String(m).padStart(2, '0')}-${d},18,${((year[m - 1] ?? 0) * times) / 2}`)
    expect(readMonths(rows.join('\n'))).toEqual({ months: year.map((v) => 2 * v) })
    const months = readMonths(year.map((v, i) => `2025-${String(i + 1).padStart(2, '0')},${v}`).join('\n'))
    expect(months).toEqual({ months: year })
  })

  it('says what is wrong, and where', () => {
    expect(readMonths('1\n2\n3')).toHaveProperty('problem', expect.stringContaining('held 3'))
    expect(readMonths('2025-01,5\n2025-02,x1')).toHaveProperty('problem', expect.stringContaining('Line 2'))
    expect(readMonths('2025-01,5\nFeb,7')).toHaveProperty('problem', expect.stringContaining('Line 2'))
    expect(readMonths('2025-01,5\n2025-03,7')).toHaveProperty('problem', 'Nothing is said of month 2.')
    expect(readMonths('')).toHaveProperty('problem')
  })
})
