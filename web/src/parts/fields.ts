import type { Quantity } from '../units'

export interface Option {
  value: string
  label: string
}

/** One field of a record's form. */
export interface Field {
  key: string
  label: string
  kind: 'text' | 'long' | 'number' | 'integer' | 'day' | 'time' | 'choice' | 'flag'
  /** What the figure measures: it is shown and typed in the reader's units. */
  quantity?: Quantity
  /** A unit that is the same for everybody. */
  unit?: string
  options?: Option[]
  longest?: number
  hint?: string
  /** Whether the field matters, given the rest of the record. */
  when?: (record: Record<string, unknown>) => boolean
}

export const options = (words: Record<string, string>): Option[] =>
  Object.entries(words).map(([value, label]) => ({ value, label }))
