import type { Schemas } from '../../api/client'
import { upperFirst } from '../../words'

/** A work plan in words: its passes in their order, with their cleaners. */
export function planWords(p: Schemas['ProgramPlan']) {
  return upperFirst(
    p.passes
      .map((w) => {
        const how = w.cleaner_name ? `${w.name.toLowerCase()} with ${w.cleaner_name}` : w.name.toLowerCase()
        return w.taken_out ? `${how}, taken out` : how
      })
      .join(', then '),
  )
}
