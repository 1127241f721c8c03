import type { Schemas } from '../../api/client'
import { putDown } from '../../offline/device'
import { ownKey } from '../../offline/owner'
import { gradeEdges, gradeOf } from '../../words'
import { coilName } from './names'
import { dropClocks, keepClocks } from './running'

/**
 * A visit led step by step. It is written to the device at every change, so that a closed tab loses at most the last
 * tap; only clock times are kept of timers, so that what has truly passed is known after a reload or a locked screen.
 */
export type Step = Schemas['ProcedureStep']
export type Phase = Step['phase']

/** A cell of a face map: a grade, or why it was not reached; nothing while it is open. */
export interface Cell {
  row: number
  column: number
  grade?: number
  why_not?: string
}

export interface SideWork {
  surface_id: string
  reached: boolean | null
  why_not: string
  first: Cell[]
  found: Cell[]
  left: Cell[]
  /** How it was seen; empty until somebody says. */
  seen: Schemas['Seen'] | ''
  left_seen: Schemas['Seen'] | ''
  soils: string[]
}

export interface Timer {
  min_s: number
  max_s: number
  /** Clock times in milliseconds; null while it has not come to that. */
  sprayed: number | null
  rinsed: number | null
  done: number | null
  over: string
  foam: 'brown' | 'white' | ''
  /** How long it stood by somebody's watch, where no clock was run here, in seconds. */
  said_s?: number | null
}

/** One pass of the plan that was chosen, as it is recorded. */
export interface PassWork {
  method: string
  cleaner: string
  direction: Schemas['Direction']
  out: boolean
  /** The pass that the mix and the dose are of. */
  main: boolean
  /** How long it stands, where it does; how long it stood, and its foam, once it is rinsed. */
  min_s?: number
  max_s?: number
  dwell_s?: number
  over?: string
  foam?: string
  water_parts?: number
  planned_l?: number
  /** A look between this pass and the next. */
  after?: { grade: number; seen: Schemas['Seen'] }
}

export interface CoilWork {
  coil_id: string
  /** What it is called: the unit's tag where that has one coil only, else with the coil's name. */
  name?: string
  /** The passes of the plan in their order; what is used and how long it stood is kept beside them, of the main one. */
  passes?: PassWork[]
  plan?: string
  on: boolean
  work: Schemas['TaskKind']
  method: string
  cleaner: string
  direction: Schemas['Direction'] | ''
  setting_id: string
  water_parts: number | null
  planned_l: number | null
  /** What the plan asks for; what was used is what somebody says. */
  planned_mix_l: number | null
  planned_rinse_l: number | null
  rinse_l: number | null
  loaded_l: number | null
  topped_up_l: number | null
  returned_l: number | null
  tip: string
  consent: string
  end_points: Schemas['EndPoint'][]
  timer: Timer | null
  sides: SideWork[]
}

export interface StepWork {
  state: 'done' | 'skipped'
  reason: string
  at: string
}

export interface Work {
  key: string
  unit_id: string
  /** The site, so that units sprayed together there share one order of spraying. */
  site_id?: string
  version: number
  day: string
  started_at: string
  outcome: Schemas['Outcome'] | ''
  note: string
  steps: Record<string, StepWork>
  isolation: {
    point: string
    means: 'breaker' | 'disconnect' | 'plug' | ''
    secured: 'locked' | 'tagged' | 'locked_and_tagged' | 'plug_in_hand' | 'not' | ''
    discharged: boolean | null
    meter_tried: boolean | null
    l1_l2_v: number | null
    l1_ground_v: number | null
    l2_ground_v: number | null
    at: string
  }
  /** Water is null where nobody has said whether there is any. */
  place: { water: boolean | null; low_c: number | null }
  coils: CoilWork[]
  /** The crew whose kit is on the van; empty where nobody has said. */
  crew: string
  /** What the visit is for. */
  jobs: Schemas['VisitJob'][]
  /** Wheel, blades, tray, base, trough, filter and grille: the grade found and left. */
  surfaces: Partial<
    Record<Schemas['UnitPart'], { grade: number | null; left: number | null; seen?: Schemas['Seen'] }>
  >
  readings: Schemas['NewReading'][]
  watched: Record<string, { state: 'same' | 'worse' | 'better' | 'gone' | ''; note: string }>
  new_watch: { what: string; surface_id: string }[]
  advised: { text: string; answer: 'not_told' | 'told' | 'agreed' | 'declined' }[]
  parts: { kind: string; specification: string; quantity: number; note: string }[]
  counts: Record<
    'screws' | 'plugs' | 'panels' | 'tools',
    { taken: number | null; back: number | null; why: string }
  >
  exceptions: Record<string, string>
  symptoms: Record<string, boolean | null>
  told_whom: string
  choices: Record<string, string>
  /** By how much its times were mended, in milliseconds. */
  mended_ms?: number
  /** Who began it, where somebody else goes on with it. */
  handed_by?: string
  /** What was asked about once and is so all the same. */
  sure: Record<string, boolean>
  people: { person_id: string; minutes: number | null }[]
  photos: {
    id: string
    name: string
    step: string
    phase: 'before' | 'after' | ''
    surface_id: string
    watch_id: string
  }[]
}

export const phaseWords: Record<Phase, string> = {
  arrive: 'Arrive',
  safe: 'Make safe',
  look: 'Open and look',
  dry: 'Dry work',
  wet: 'Wet work',
  check: 'Check',
  close: 'Close and start',
  tell: 'Tell the site',
}
export const phases = Object.keys(phaseWords) as Phase[]

const place = (unit: string) => ownKey('work', unit)

/** Writes the visit down on the phone; what it says when the phone refuses is for the screen. */
export function keep(w: Work): string {
  const said = putDown(place(w.unit_id), w)
  keepClocks(w)
  return said
}
export function drop(unit: string): void {
  localStorage.removeItem(place(unit))
  dropClocks(unit)
}
const clockName = (pack: Schemas['VisitPack'], coil: string) =>
  pack.coils.length > 1 ? `${pack.unit.tag}, ${coilName(pack, coil).toLowerCase()}` : pack.unit.tag
export function kept(unit: string): Work | null {
  try {
    const w = JSON.parse(localStorage.getItem(place(unit)) ?? 'null') as Work | null
    return w && typeof w.key === 'string' && Array.isArray(w.coils) ? w : null
  } catch {
    return null
  }
}

export function begin(
  pack: Schemas['VisitPack'],
  day: string,
  me: string,
  jobs: Schemas['VisitJob'][] = ['deep'],
): Work {
  const means = pack.place.isolation_kind
  return {
    key: crypto.randomUUID(),
    unit_id: pack.unit.id,
    site_id: pack.unit.site_id,
    version: pack.procedure.version,
    day,
    started_at: new Date().toISOString(),
    outcome: '',
    note: '',
    steps: {},
    isolation: {
      point: pack.place.isolation_point,
      means: means === 'breaker' || means === 'disconnect' || means === 'plug' ? means : '',
      secured: '',
      discharged: null,
      meter_tried: null,
      l1_l2_v: null,
      l1_ground_v: null,
      l2_ground_v: null,
      at: '',
    },
    place: {
      // What the register says holds until somebody here says otherwise; it is not ticked for them.
      water: null,
      low_c: pack.forecast.days[0]?.low_c ?? null,
    },
    coils: pack.coils.map((c) => ({
      coil_id: c.coil_id,
      name: clockName(pack, c.coil_id),
      on: true,
      work: jobs.includes('deep') ? 'deep' : 'light',
      method: '',
      cleaner: '',
      direction: '',
      setting_id: '',
      water_parts: null,
      planned_l: null,
      planned_mix_l: null,
      planned_rinse_l: null,
      rinse_l: null,
      loaded_l: null,
      topped_up_l: null,
      returned_l: null,
      tip: '',
      consent: '',
      end_points: [],
      timer: null,
      sides: c.sides.map((s) => ({
        surface_id: s.surface_id,
        reached: s.reachable ? null : false,
        why_not: s.why_not,
        first: [],
        found: [],
        left: [],
        seen: '',
        left_seen: '',
        soils: [],
      })),
    })),
    crew: '',
    jobs,
    surfaces: {},
    readings: [],
    watched: Object.fromEntries(pack.watch.map((w) => [w.id, { state: '' as const, note: '' }])),
    new_watch: [],
    advised: [],
    parts: [],
    counts: {
      screws: { taken: null, back: null, why: '' },
      plugs: { taken: null, back: null, why: '' },
      panels: { taken: null, back: null, why: '' },
      tools: { taken: null, back: null, why: '' },
    },
    exceptions: {},
    symptoms: Object.fromEntries(pack.symptoms.map((s) => [s.id, null])),
    told_whom: '',
    choices: {},
    sure: {},
    people: [{ person_id: me, minutes: null }],
    photos: [],
  }
}

/** Moves every time of a visit, where the phone's clock was wrong by so many milliseconds, and says so in its note. */
export function mendTimes(w: Work, ahead: number, words: string): void {
  const back = (at: string) => (at ? new Date(Date.parse(at) - ahead).toISOString() : at)
  w.started_at = back(w.started_at)
  w.isolation.at = back(w.isolation.at)
  for (const s of Object.values(w.steps)) s.at = back(s.at)
  w.mended_ms = (w.mended_ms ?? 0) + ahead
  w.note = [w.note, `The phone’s clock was ${words} the server’s; the times were mended.`]
    .filter(Boolean)
    .join('\n')
}

/** The kinds of job the visit comes to: what it is for, with a clean as deep or light as it is on each coil. */
export function jobsOf(w: Work): Schemas['VisitJob'][] {
  const jobs = new Set(w.jobs)
  if (jobs.has('deep') || jobs.has('light')) {
    jobs.delete('deep')
    jobs.delete('light')
    for (const c of w.coils.filter((x) => x.on)) jobs.add(c.work)
  }
  return jobKinds.filter((j) => jobs.has(j))
}
/** The kinds of job, the most work first. */
export const jobKinds: Schemas['VisitJob'][] = ['deep', 'light', 'hose_down', 'look', 'companion']

/** The pass whose dwell is not over yet, after the one whose clock has stopped; none where that was the last. */
export function nextDwell(c: CoilWork): PassWork | undefined {
  const dwelling = (c.passes ?? []).filter((p) => p.max_s)
  const at = dwelling.findIndex((p) => p.dwell_s === undefined)
  return at < 0 ? undefined : dwelling[at + 1]
}

/** How long a cleaner stood, its foam, and what was said of it, once its clock has stopped. */
const stood = (t: Timer | null): Pick<PassWork, 'dwell_s' | 'over' | 'foam'> =>
  t && !t.sprayed && t.said_s != null
    ? { dwell_s: t.said_s, over: t.over, foam: t.foam }
    : t?.sprayed && t.rinsed
      ? { dwell_s: Math.round((t.rinsed - t.sprayed) / 1000), over: t.over, foam: t.foam }
      : {}

/** Writes the dwell that has ended down beside its pass, and makes a clock for the next pass. */
export function toNextDwell(c: CoilWork): void {
  const next = nextDwell(c)
  const done = (c.passes ?? []).find((p) => p.max_s && p.dwell_s === undefined)
  const t = c.timer
  if (!next || !done || !t || stood(t).dwell_s === undefined) return
  Object.assign(done, stood(t))
  c.timer = {
    min_s: next.min_s ?? 0,
    max_s: next.max_s!,
    sprayed: null,
    rinsed: null,
    done: null,
    over: '',
    foam: '',
  }
}

/** Whether a map has a cell that was not reached. */
export const missedCells = (cells: Cell[]): boolean => cells.some((c) => c.grade === undefined && !!c.why_not)

export function outcomeOf(w: Work): Schemas['Outcome'] {
  if (w.outcome) return w.outcome
  const partly = w.coils.some(
    (c) => c.on && c.sides.some((s) => s.reached === false || missedCells(s.found) || missedCells(s.left)),
  )
  return partly ? 'partly' : 'done'
}

/** The blocked share a map comes to, for what is shown while tapping. */
export function mapShare(cells: Cell[]): number | null {
  const graded = cells.filter((c) => c.grade !== undefined)
  if (!graded.length) return null
  return (
    graded.reduce((sum, c) => sum + (gradeEdges[c.grade!]! + gradeEdges[c.grade! + 1]!) / 2, 0) /
    graded.length
  )
}
const look = (cells: Cell[], seen: Schemas['Seen'] | ''): Schemas['Look'] | undefined => {
  const share = mapShare(cells)
  if (share === null) return undefined
  return {
    grade: gradeOf(share),
    // Where nobody has said, the rules ask for it.
    seen: seen as Schemas['Seen'],
    cells: cells
      .filter((c) => c.grade !== undefined || c.why_not)
      .map((c) => ({
        row: c.row,
        column: c.column,
        ...(c.grade !== undefined ? { grade: c.grade } : { why_not: c.why_not! }),
      })),
  }
}

/** The mix that came of what was loaded; unknown where nobody has said. */
function mixOf(c: CoilWork): number | null {
  if (!c.cleaner || c.loaded_l === null || c.water_parts === null) return null
  const used = Math.max(0, c.loaded_l + (c.topped_up_l ?? 0) - (c.returned_l ?? 0))
  return Number((used * (1 + c.water_parts)).toPrecision(4))
}
const given = (s: string) => (s.trim() ? s.trim() : undefined)
const number = (n: number | null) => n ?? undefined

/** The visit as it is sent; while it is judged, the isolation is there before its step is ticked. */
export function toVisit(
  pack: Schemas['VisitPack'],
  w: Work,
  finished: string,
  judging = false,
): Schemas['NewVisit'] {
  const outcome = outcomeOf(w)
  const atWork = outcome === 'done' || outcome === 'partly'
  const method = new Map(pack.catalogue.methods.map((m) => [m.code, m.id]))
  const cleaner = new Map(pack.catalogue.cleaners.map((m) => [m.code, m.id]))
  const isolated = judging || w.steps['isolate']?.state === 'done' || w.steps['prove_dead']?.state === 'done'
  const i = w.isolation
  return {
    unit_id: w.unit_id,
    day: w.day,
    outcome,
    cautions_read: true,
    source: 'phone',
    procedure_version: w.version,
    started_at: w.started_at,
    finished_at: finished,
    ...(given(w.note) ? { note: w.note.trim() } : {}),
    ...(given(w.told_whom) ? { told_whom: w.told_whom.trim() } : {}),
    people: w.people
      .filter((p) => p.person_id)
      .map((p) => ({ person_id: p.person_id, minutes: p.minutes ?? 0 })),
    coils: atWork ? w.coils.filter((c) => c.on && c.sides.some((s) => s.reached)).map(coil) : [],
    steps: Object.entries(w.steps).map(([step, s]) => ({
      step,
      state: s.state,
      at: s.at,
      ...(given(s.reason) ? { reason: s.reason.trim() } : {}),
    })),
    ...(isolated
      ? {
          isolation: {
            point: i.point,
            means: i.means as 'breaker',
            secured: i.secured || 'not',
            discharged: i.discharged ?? false,
            meter_tried: i.meter_tried ?? false,
            ...(i.l1_l2_v !== null ? { l1_l2_v: i.l1_l2_v } : {}),
            ...(i.l1_ground_v !== null ? { l1_ground_v: i.l1_ground_v } : {}),
            ...(i.l2_ground_v !== null ? { l2_ground_v: i.l2_ground_v } : {}),
            ...(i.at ? { at: i.at } : {}),
            ...(w.people[0]?.person_id ? { person_id: w.people[0].person_id } : {}),
          },
        }
      : {}),
    ...(w.readings.length ? { readings: w.readings } : {}),
    watched: Object.entries(w.watched)
      .filter(([, x]) => x.state)
      .map(([watch_id, x]) => ({
        watch_id,
        state: x.state as 'same',
        ...(given(x.note) ? { note: x.note.trim() } : {}),
      })),
    new_watch: w.new_watch
      .filter((x) => given(x.what))
      .map((x) => ({ what: x.what.trim(), ...(x.surface_id ? { surface_id: x.surface_id } : {}) })),
    advised: w.advised.filter((x) => given(x.text)).map((x) => ({ text: x.text.trim(), answer: x.answer })),
    parts: w.parts.filter((x) => given(x.kind) || given(x.specification)),
    counts: Object.entries(w.counts)
      .filter(([, x]) => x.taken !== null || x.back !== null)
      .map(([what, x]) => ({
        what: what as 'screws',
        taken: x.taken ?? 0,
        back: x.back ?? 0,
        ...(given(x.why) ? { why: x.why.trim() } : {}),
      })),
    exceptions: Object.entries(w.exceptions)
      .filter(([, reason]) => given(reason))
      .map(([ban, reason]) => ({ ban, reason: reason.trim() })),
    jobs: jobsOf(w),
    surfaces: atWork
      ? Object.entries(w.surfaces)
          .filter(([, x]) => x.grade !== null)
          .map(([part, x]) => ({
            part: part as Schemas['UnitPart'],
            grade: x.grade!,
            ...(x.seen ? { seen: x.seen } : {}),
            ...(x.left !== null ? { left: x.left } : {}),
          }))
      : [],
    choices: Object.fromEntries(Object.entries(w.choices).filter(([, x]) => given(x))),
    symptoms: Object.entries(w.symptoms)
      .filter(([, x]) => x !== null)
      .map(([symptom_id, x]) => ({ symptom_id, coil_was_cause: x! })),
  }

  function coil(c: CoilWork): Schemas['VisitCoil'] {
    return {
      coil_id: c.coil_id,
      // A side that nobody has said anything about is left out: the rules ask for it.
      sides: c.sides
        .filter((s) => s.reached !== null)
        .map((s) => {
          if (!s.reached) return { surface_id: s.surface_id, reached: false, why_not: s.why_not }
          const first = look(s.first, 'face_look')
          const found = look(s.found, s.seen)
          const left = c.method ? look(s.left, s.left_seen) : undefined
          return {
            surface_id: s.surface_id,
            reached: true,
            ...(first ? { first_look: first } : {}),
            ...(found ? { found } : {}),
            ...(left ? { left } : {}),
            soil_ids: s.soils,
          }
        }),
      treatments: c.method ? treatments(c) : [],
    }
  }

  function treatments(c: CoilWork): Schemas['VisitTreatment'][] {
    // Of a cleaner that was put on twice the last dwell still stands on the clock.
    const dwelling = (c.passes ?? []).filter((p) => p.max_s)
    const last = dwelling.length > 1 ? dwelling.find((p) => p.dwell_s === undefined) : undefined
    const passes = c.passes?.map((p) => (p === last ? { ...p, ...stood(c.timer) } : p))
    const sides = c.sides.filter((s) => s.reached).map((s) => s.surface_id)
    return (
      passes?.length ? passes : [{ method: c.method, cleaner: c.cleaner, out: false, main: true }]
    ).flatMap((p): Schemas['VisitTreatment'][] => {
      if (p.main)
        return [
          {
            ...treatment(c),
            ...('after' in p && p.after ? { after: p.after } : {}),
            ...(p.out ? { taken_out: true } : {}),
          },
        ]
      const id = method.get(p.method)
      const k = p.cleaner ? cleaner.get(p.cleaner) : undefined
      return id
        ? [
            {
              work: c.work,
              method_id: id,
              direction: ('direction' in p && p.direction) || 'along_fins',
              surface_ids: sides,
              end_points: 'foam' in p && p.foam === 'white' ? ['foam_white_still' as const] : [],
              ...(k ? { cleaner_id: k } : {}),
              ...('dwell_s' in p && p.dwell_s !== undefined ? { dwell_s: p.dwell_s } : {}),
              ...('after' in p && p.after ? { after: p.after } : {}),
              ...('over' in p && p.over ? { over_dwell: p.over } : {}),
              ...('water_parts' in p && p.water_parts !== undefined ? { water_parts: p.water_parts } : {}),
              ...('planned_l' in p && p.planned_l !== undefined ? { planned_l: p.planned_l } : {}),
              ...(c.tip.trim() && p.cleaner ? { tip: c.tip.trim() } : {}),
              ...(p.out ? { taken_out: true } : {}),
            },
          ]
        : []
    })
  }

  function treatment(c: CoilWork): Schemas['VisitTreatment'] {
    // Of a cleaner that was put on twice the first dwell is kept beside its pass.
    const first = c.passes?.find((p) => p.main && p.dwell_s !== undefined)
    const t = first ?? { over: c.timer?.over, foam: c.timer?.foam, ...stood(c.timer) }
    const dwell = t.dwell_s
    const out: Schemas['VisitTreatment'] = {
      work: c.work,
      method_id: method.get(c.method) ?? '',
      direction: c.direction || 'along_fins',
      surface_ids: c.sides.filter((s) => s.reached).map((s) => s.surface_id),
      end_points:
        t?.foam === 'white' && !c.end_points.includes('foam_white_still')
          ? ['foam_white_still', ...c.end_points]
          : c.end_points,
    }
    const maybe = {
      cleaner_id: c.cleaner ? cleaner.get(c.cleaner) : undefined,
      setting_id: given(c.setting_id),
      water_parts: c.cleaner ? number(c.water_parts) : undefined,
      planned_l: number(c.planned_l),
      loaded_l: c.cleaner ? number(c.loaded_l) : undefined,
      topped_up_l: c.cleaner ? number(c.topped_up_l) : undefined,
      returned_l: c.cleaner ? number(c.returned_l) : undefined,
      mix_l: number(mixOf(c)),
      rinse_l: number(c.rinse_l),
      dwell_s: dwell,
      over_dwell: given(t?.over ?? ''),
      tip: given(c.tip),
    }
    for (const [key, v] of Object.entries(maybe)) if (v !== undefined) Object.assign(out, { [key]: v })
    return out
  }
}
