import { session } from './session'

/**
 * Figures in the units somebody likes. The server keeps SI; what is typed is turned into it here. Factors: the
 * international foot and avoirdupois pound, the US gallon of 231 cubic inches, the ton of refrigeration of
 * 12,000 Btu(IT) an hour (NIST SP 811, appendix B, from memory).
 */
export type Quantity = 'm' | 'm2' | 'kg' | 'kW' | 'L' | 'degC' | 'kPa'

interface Scale {
  unit: string
  /** How many of the SI unit one of this unit is. */
  factor: number
}

const us: Record<Exclude<Quantity, 'degC'>, Scale> = {
  m: { unit: 'ft', factor: 0.3048 },
  m2: { unit: 'ft²', factor: 0.09290304 },
  kg: { unit: 'lb', factor: 0.45359237 },
  kW: { unit: 'tons', factor: 3.51685284 },
  L: { unit: 'US gal', factor: 3.785411784 },
  kPa: { unit: 'psi', factor: 6.894757 },
}
const metric: Record<Quantity, string> = {
  m: 'm',
  m2: 'm²',
  kg: 'kg',
  kW: 'kW',
  L: 'L',
  degC: '°C',
  kPa: 'kPa',
}

const inUs = () => session.value?.units === 'us'

export const unitOf = (q: Quantity): string => (!inUs() ? metric[q] : q === 'degC' ? '°F' : us[q].unit)

/** A figure as it is shown, from SI. */
export function shown(q: Quantity, si: number): number {
  if (!inUs()) return si
  return q === 'degC' ? si * 1.8 + 32 : si / us[q].factor
}

/** SI of a figure as it was typed. */
export function typed(q: Quantity, value: number): number {
  if (!inUs()) return value
  return q === 'degC' ? (value - 32) / 1.8 : value * us[q].factor
}

/**
 * The number that a text says, as people write them: 1.5 and 1,5, and 1 000 with a space between thousands. NaN where it is none,
 * or where it could be two: 1,000 is a thousand to one and one to another.
 */
export function numberOf(text: string): number {
  const plain = text.trim()
  if (plain === '' || /^\d{1,3}(,\d{3})+$/.test(plain)) return NaN
  const joined = /^[-−+]?\d{1,3}([ \u00a0\u202f]\d{3})+([.,]\d+)?$/.test(plain)
    ? plain.replace(/[ \u00a0\u202f]/g, '')
    : plain
  return Number(joined.replace(',', '.').replace('−', '-'))
}

/** A figure in a form: enough digits to come back the same, no more. */
export const asText = (v: number): string => String(Number(v.toPrecision(6)))

/** A figure with its unit. */
export function figure(q: Quantity, si: number | undefined, digits = 3): string {
  if (si === undefined) return '–'
  return `${Number(shown(q, si).toPrecision(digits))}\u00a0${unitOf(q)}`
}

/** The quantity of a kind of reading that is shown in the reader's units; others keep their own. */
export function readingQuantity(kind: string): Quantity | undefined {
  if (kind.endsWith('_kpa')) return 'kPa'
  if (kind.endsWith('_c')) return 'degC'
  return undefined
}

/** A reading with its unit. */
export function readingFigure(kind: string, value: number, unit: string): string {
  const q = readingQuantity(kind)
  if (!q) return `${Number(value.toPrecision(4))}\u00a0${unit}`
  return figure(q, value, 4) + (q === 'kPa' ? ' gauge' : '')
}
