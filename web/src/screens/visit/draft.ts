import type { ApiProblem, Schemas } from '../../api/client'
import { putDown } from '../../offline/device'
import { ownKey } from '../../offline/owner'
import { roleWords } from '../../words'

/** A visit being written down. It is kept on the device until the server has it, so that nothing is lost. */
export interface SideDraft {
  surface_id: string
  name: string
  reached: boolean | null
  why_not: string
  found: number | null
  seen: Schemas['Seen']
  soils: string[]
  left: number | null
  left_seen: Schemas['Seen']
}
export interface TreatmentDraft {
  work: Schemas['TaskKind']
  method: string
  direction: Schemas['Direction'] | ''
  cleaner: string
  water_parts: number | null
  amount: number | null
  unit: Schemas['Amount']['unit']
  end_points: Schemas['EndPoint'][]
  /** Sides left out of this treatment. */
  not_on: string[]
}
export interface CoilDraft {
  coil_id: string
  role: Schemas['CoilRole']
  on: boolean
  has_light: boolean
  sides: SideDraft[]
  treatments: TreatmentDraft[]
}
export interface Draft {
  key: string
  day: string
  outcome: Schemas['Outcome']
  cautions_read: boolean
  people: { person_id: string; minutes: number | null }[]
  note: string
  coils: CoilDraft[]
}

const place = (unit: string) => ownKey('draft', unit)

export function newTreatment(hasLight: boolean): TreatmentDraft {
  return {
    work: hasLight ? 'light' : 'deep',
    method: '',
    direction: '',
    cleaner: '',
    water_parts: null,
    amount: null,
    unit: 'l',
    end_points: [],
    not_on: [],
  }
}

export function newDraft(unit: Schemas['Unit'], today: string, me: string): Draft {
  return {
    key: crypto.randomUUID(),
    day: today,
    outcome: 'done',
    cautions_read: false,
    people: [{ person_id: me, minutes: null }],
    note: '',
    coils: unit.coils.map((c) => {
      const hasLight = c.tasks.some((t) => t.kind === 'light')
      return {
        coil_id: c.id,
        role: c.role,
        on: unit.coils.length === 1,
        has_light: hasLight,
        sides: c.sides.map((s) => ({
          surface_id: s.id,
          name: s.name,
          reached: null,
          why_not: '',
          found: null,
          seen: 'face_look',
          soils: [],
          left: null,
          left_seen: 'face_look',
        })),
        treatments: [newTreatment(hasLight)],
      }
    }),
  }
}

/** A visit as it was sent, as a draft to amend. */
export function draftOf(unit: Schemas['Unit'], visit: Schemas['NewVisit']): Draft {
  const d = newDraft(unit, visit.day, '')
  d.outcome = visit.outcome
  d.cautions_read = visit.cautions_read
  d.note = visit.note ?? ''
  d.people = visit.people.map((p) => ({ ...p }))
  for (const c of d.coils) {
    const sent = visit.coils.find((x) => x.coil_id === c.coil_id)
    c.on = sent !== undefined
    if (!sent) continue
    for (const s of c.sides) {
      const side = sent.sides.find((x) => x.surface_id === s.surface_id)
      if (!side) continue
      s.reached = side.reached
      s.why_not = side.why_not ?? ''
      s.found = side.found?.grade ?? null
      s.seen = side.found?.seen ?? s.seen
      s.soils = side.soil_ids ?? []
      s.left = side.left?.grade ?? null
      s.left_seen = side.left?.seen ?? s.left_seen
    }
    c.treatments = sent.treatments.map((t) => ({
      work: t.work,
      method: t.method_id,
      direction: t.direction,
      cleaner: t.cleaner_id ?? '',
      water_parts: t.water_parts ?? null,
      amount: t.amount?.value ?? null,
      unit: t.amount?.unit ?? 'l',
      end_points: t.end_points ?? [],
      not_on: c.sides
        .filter((s) => s.reached && !t.surface_ids.includes(s.surface_id))
        .map((s) => s.surface_id),
    }))
  }
  return d
}

/** The draft kept for a unit, if there is one that still fits its coils. */
export function keptDraft(unit: Schemas['Unit']): Draft | null {
  try {
    const d = JSON.parse(localStorage.getItem(place(unit.id)) ?? 'null') as Draft | null
    const ids = (xs: { coil_id: string }[]) => xs.map((x) => x.coil_id).join()
    return d && ids(d.coils) === unit.coils.map((c) => c.id).join() ? d : null
  } catch {
    return null
  }
}
/** Writes the draft down; what it says when the device refuses is for the screen. */
export const keepDraft = (unit: string, d: Draft): string => putDown(place(unit), d)
export const dropDraft = (unit: string) => localStorage.removeItem(place(unit))

export const worked = (o: Schemas['Outcome']) => o === 'done' || o === 'partly'

/** The request, and for each of its fields the place in the form it came from. */
export function toRequest(unit: string, d: Draft): Schemas['NewVisit'] {
  return {
    unit_id: unit,
    day: d.day,
    outcome: d.outcome,
    cautions_read: d.cautions_read,
    note: d.note || undefined,
    people: d.people
      .filter((p) => p.person_id && p.minutes)
      .map((p) => ({ person_id: p.person_id, minutes: p.minutes ?? 0 })),
    coils: worked(d.outcome) ? d.coils.filter((c) => c.on).map(coilRequest) : [],
  }
}

function coilRequest(c: CoilDraft): Schemas['VisitCoil'] {
  const treatments = c.treatments.filter((t) => t.method).map((t) => treatmentRequest(c, t))
  const treated = new Set(treatments.flatMap((t) => t.surface_ids))
  return {
    coil_id: c.coil_id,
    sides: c.sides.map((s) => {
      if (!s.reached) return { surface_id: s.surface_id, reached: false, why_not: s.why_not || undefined }
      return {
        surface_id: s.surface_id,
        reached: true,
        found: s.found === null ? undefined : { grade: s.found, seen: s.seen },
        soil_ids: s.soils,
        left:
          s.left === null || !treated.has(s.surface_id) ? undefined : { grade: s.left, seen: s.left_seen },
      }
    }),
    treatments,
  }
}

function treatmentRequest(c: CoilDraft, t: TreatmentDraft): Schemas['VisitTreatment'] {
  return {
    work: t.work,
    method_id: t.method,
    direction: t.direction || 'along_fins',
    cleaner_id: t.cleaner || undefined,
    water_parts: t.cleaner && t.water_parts !== null ? t.water_parts : undefined,
    amount: t.cleaner && t.amount !== null ? { value: t.amount, unit: t.unit } : undefined,
    end_points: t.end_points,
    surface_ids: c.sides
      .filter((s) => s.reached && !t.not_on.includes(s.surface_id))
      .map((s) => s.surface_id),
  }
}

/** The server's words for one field, whose pointer counts only the coils that were sent. */
export function errorAt(problem: ApiProblem | null, d: Draft, coil: CoilDraft | null, rest: string): string {
  if (!problem) return ''
  const prefix = coil ? `/coils/${d.coils.filter((c) => c.on).indexOf(coil)}` : ''
  return problem.fields
    .filter((f) => f.pointer === prefix + rest)
    .map((f) => f.reason)
    .join('; ')
}

const parts: Record<string, string> = {
  cautions_read: 'cautions',
  why_not: 'why not reached',
  found: 'found',
  left: 'as left',
  method_id: 'method',
  cleaner_id: 'cleaner',
  water_parts: 'parts of water',
  surface_ids: 'done to',
  person_id: 'person',
}

/** Where in the form a field of the request stands, in words: "condenser, wall side: as left". */
export function placeOf(d: Draft, pointer: string): string {
  const [head, index, list, item, field] = pointer.split('/').slice(1)
  const word = (s = '') => parts[s] ?? s.replaceAll('_', ' ')
  if (head !== 'coils' || index === undefined) return word(field ?? list ?? head)
  const coil = d.coils.filter((c) => c.on)[Number(index)]
  if (!coil) return word(head)
  const named = list === 'sides' ? coil.sides[Number(item)]?.name : list === 'treatments' ? 'work done' : ''
  return [[roleWords[coil.role], named].filter(Boolean).join(', '), word(field)].filter(Boolean).join(': ')
}

/** An amended visit with what this form does not show, such as readings, maps and doses, as it was. */
export function withDetails(was: Schemas['NewVisit'] | null, now: Schemas['NewVisit']): Schemas['NewVisit'] {
  if (!was) return now
  const atWork = worked(now.outcome)
  return {
    ...was,
    ...now,
    coils: now.coils.map((c) => {
      const before = was.coils.find((x) => x.coil_id === c.coil_id)
      return {
        ...c,
        sides: c.sides.map((s) => {
          const old = before?.sides.find((x) => x.surface_id === s.surface_id)
          const same = (a?: Schemas['Look'], b?: Schemas['Look']) =>
            a && b && a.grade === b.grade && a.seen === b.seen
          return {
            ...s,
            ...(s.reached && old?.first_look ? { first_look: old.first_look } : {}),
            ...(same(old?.found, s.found) ? { found: old!.found! } : {}),
            ...(same(old?.left, s.left) ? { left: old!.left! } : {}),
          }
        }),
        treatments: c.treatments.map((t, i) => {
          const old = before?.treatments[i]
          return old?.method_id === t.method_id && old.cleaner_id === t.cleaner_id ? { ...old, ...t } : t
        }),
      }
    }),
    ...(atWork ? {} : { steps: was.steps ?? [] }),
  }
}
