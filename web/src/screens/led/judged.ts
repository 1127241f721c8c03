import type { Schemas } from '../../api/client'
import { compute } from '../../core'
import { type Step, toVisit, type Work } from './ledVisit'

/** One thing the server would refuse, and the step at which it is put right; empty for the end of the visit. */
export interface Refusal {
  field: string
  step: string
  reason: string
}
/** A finding that is rare enough to be asked about once. */
export interface Ask {
  key: string
  step: string
  text: string
}
export interface Judged {
  refusals: Refusal[]
  here: Refusal[]
  asks: Ask[]
  steps: Step[]
}

/** Of what the phone keeps of a unit, what the rules are held against. */
export const lean = (pack: Schemas['VisitPack'], day: string) => ({
  unit: {
    id: pack.unit.id,
    tag: pack.unit.tag,
    status: pack.unit.status,
    ...(pack.unit.commissioned ? { commissioned: pack.unit.commissioned } : {}),
    coils: pack.unit.coils.map((c) => ({
      id: c.id,
      sides: c.sides.map((s) => ({ id: s.id, name: s.name })),
    })),
  },
  // Without network the kept day may be yesterday's.
  today: day > pack.today ? day : pack.today,
  catalogue: {
    people: pack.catalogue.people,
    methods: pack.catalogue.methods,
    cleaners: pack.catalogue.cleaners,
    soils: pack.catalogue.soils,
  },
  coils: pack.coils.map((c) => ({ coil_id: c.coil_id, advice: c.advice })),
  sprayers: pack.sprayers,
  watch: pack.watch.map((w) => ({ id: w.id })),
  symptoms: pack.symptoms.map((s) => ({ id: s.id })),
  procedure: pack.procedure,
  tags: pack.tags,
  practice: pack.practice,
  context: pack.context,
  ...(pack.volts !== undefined ? { volts: pack.volts } : {}),
  ...(pack.amps !== undefined ? { amps: pack.amps } : {}),
})

/** Holds the visit against the server's rules, here on the phone; step is the one that is open. */
export function judge(pack: Schemas['VisitPack'], w: Work, step: string, at: string): Promise<Judged> {
  return compute<Judged>('visit', {
    pack: lean(pack, w.day),
    visit: toVisit(pack, w, at, true),
    at,
    ...(step ? { step } : {}),
  })
}
