import type { Schemas } from '../../api/client'
import { roleWords, upperFirst } from '../../words'
import { jobsOf, outcomeOf, type Step, type Work } from './ledVisit'

/** A side of a coil as the screen calls it. */
export const sideNames = (pack: Schemas['VisitPack']) =>
  pack.unit.coils.flatMap((c) => c.sides.map((s) => ({ id: s.id, name: `${roleWords[c.role]}, ${s.name}` })))

/** A coil as the screen calls it. */
export function coilName(pack: Schemas['VisitPack'] | null, coil: string): string {
  const role = pack?.unit.coils.find((u) => u.id === coil)?.role
  return role ? upperFirst(roleWords[role]) : ''
}

/** What is wrong with a mix, in the reader's words; nothing where it is one that the label allows. */
export function strengthProblem(
  c: { cleaner: string; water_parts: number | null },
  k: Schemas['CleanerFacts'] | undefined,
): string {
  if (!c.cleaner || k?.form !== 'concentrate') return ''
  const [from, to] = [k.parts_from ?? 0, k.parts_to ?? 1000]
  if (c.water_parts === null) return from > 0 ? `${k.name} has to be diluted: ${from}:1 to ${to}:1.` : ''
  if (c.water_parts < from || c.water_parts > to)
    return `${k.name} is used at ${from}:1 to ${to}:1; ${c.water_parts}:1 is outside of that.`
  return ''
}

/** What stands in the way of sending a visit, in the reader's words. */
export function lackingOf(w: Work, pack: Schemas['VisitPack'], openGates: Step[]): string[] {
  const out: string[] = []
  if (w.people.some((p) => !p.person_id || !p.minutes)) out.push('Who was here, and how many minutes.')
  const outcome = outcomeOf(w)
  if (outcome !== 'done' && outcome !== 'partly') {
    if (!w.note.trim()) out.push('What stood in the way, in the note.')
    return out
  }
  for (const g of openGates) out.push(`${g.text}: done, or why it was skipped.`)
  if (jobsOf(w).every((j) => j === 'companion')) return out
  if (!w.coils.some((c) => c.on && c.sides.some((s) => s.reached)))
    out.push('At least one side that was reached.')
  const names = sideNames(pack)
  for (const c of w.coils.filter((x) => x.on)) {
    for (const s of c.sides) {
      const side = upperFirst(names.find((x) => x.id === s.surface_id)?.name ?? '')
      if (s.reached === null) out.push(`${side}: reached or not.`)
      else if (!s.reached && !s.why_not.trim()) out.push(`${side}: why it was not reached.`)
      else if (s.reached && !s.found.length) out.push(`${side}: found, opened up.`)
      else if (s.reached && c.method && !s.left.length) out.push(`${side}: as left.`)
    }
    const strength = strengthProblem(
      c,
      pack.coils[0]?.advice.cleaners?.find((k) => k.code === c.cleaner),
    )
    if (strength) out.push(strength)
    const t = c.timer
    if (t?.sprayed && t.rinsed && (t.rinsed - t.sprayed) / 1000 < t.min_s && !t.over.trim())
      out.push(`${coilName(pack, c.coil_id)}: it stood less than its minimum; why.`)
    if (t?.sprayed && t.rinsed && (t.rinsed - t.sprayed) / 1000 > t.max_s && !t.over.trim())
      out.push(`${coilName(pack, c.coil_id)}: it stood past its maximum; what was done about it.`)
  }
  return out
}
