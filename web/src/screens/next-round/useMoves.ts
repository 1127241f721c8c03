import { computed, type Ref, ref, shallowRef, watch } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import { compute, CoreProblem } from '../../core'

type Forecast = Schemas['PlanForecast']
type Coil = Schemas['ForecastCoil']
type Notch = Schemas['Notch']
interface Sequence {
  crew: string
  day: string
  jobs: string[]
}
interface Load {
  crew: string
  from: string
  planned_minutes: number
  shift_minutes: number
}
interface Moved {
  possible: boolean
  reason?: { code: string }
  crew?: string
  adds: number
  waiting: number
  rounds: Sequence[]
  load: { crew: string; from: string; minutes: number }[]
}
interface Job extends Record<string, unknown> {
  id: string
  after?: string
}
interface Course {
  weeks: number[]
  grades: number[]
}

/** What the core says of a move that cannot be, in a few words; the server says it in full when it is kept. */
const refusals: Record<string, string> = {
  no_day_closed: 'the place is not free that day',
  no_day_too_cold: 'too cold for wet work outdoors',
  gap_broken: 'too near to the clean before or after it',
  no_room: 'no crew has the time that day',
  unable: 'no crew brings what it takes',
}

export const addDays = (day: string, n: number) =>
  new Date(Date.parse(`${day}T00:00:00Z`) + n * 86_400_000).toISOString().slice(0, 10)
export const daysBetween = (from: string, to: string) =>
  Math.round((Date.parse(`${to}T00:00:00Z`) - Date.parse(`${from}T00:00:00Z`)) / 86_400_000)

/** One step that can be undone: how everything stood before it. */
interface Step {
  key: string
  from: string
  to: string
  adds: number
  before: { sites: Forecast['sites']; rounds: Sequence[]; load: Load[] }
}

/**
 * Notches moved on the forecast strips. Colour, money and crew load are worked out by the core while a notch moves; nothing
 * is stored until it is kept.
 */
export function useMoves(forecast: Ref<Forecast | null | undefined>) {
  const sites = shallowRef<Forecast['sites']>([])
  const rounds = shallowRef<Sequence[]>([])
  const load = shallowRef<Load[]>([])
  const steps = ref<Step[]>([])
  const refused = ref('')
  let problem: (Record<string, unknown> & { jobs: Job[]; fixed?: { job: string }[] }) | null = null

  watch(
    forecast,
    (f) => {
      sites.value = f?.sites ?? []
      rounds.value = f?.rounds ?? []
      load.value = f?.load ?? []
      steps.value = []
      refused.value = ''
      problem = null
    },
    { immediate: true },
  )

  async function whole() {
    problem ??= (await ask(api.GET('/plan/problem'))) as unknown as NonNullable<typeof problem>
    return problem
  }

  /** The part of the problem that a move can touch: the days it leaves and comes to, and its clock's other times. */
  async function part(key: string, days: string[]) {
    const p = await whole()
    const kin = new Set(p.jobs.filter((j) => j.id === key || j.after === key).map((j) => j.id))
    const before = p.jobs.find((j) => j.id === key)?.after
    if (before) kin.add(before)
    const near = rounds.value.filter((r) => days.includes(r.day) || r.jobs.some((id) => kin.has(id)))
    const ids = new Set([...kin, ...near.flatMap((r) => r.jobs)])
    const jobs = p.jobs
      .filter((j) => ids.has(j.id))
      .map((j) => (j.after && !ids.has(j.after) ? { ...j, after: undefined, gap_days: undefined } : j))
    return {
      problem: { ...p, jobs, fixed: (p.fixed ?? []).filter((f) => ids.has(f.job)) },
      rounds: near,
    }
  }

  const find = (key: string) => {
    for (const s of sites.value)
      for (const c of s.coils)
        for (const n of c.notches) if (n.key === key) return { site: s, coil: c, notch: n }
    return null
  }

  async function recoloured(coil: Coil, key: string, day: string): Promise<Coil> {
    const order = coil.notches
      .map((n, i) => ({
        n: n.key === key ? { ...n, day } : n,
        clean: coil.course?.cleans[i],
      }))
      .sort((a, b) => a.n.day.localeCompare(b.n.day))
    const notches: Notch[] = order.map((x) => x.n)
    if (!coil.course) return { ...coil, notches }
    const course = { ...coil.course, cleans: order.map((x) => ({ ...x.clean, day: x.n.day })) }
    const c = await compute<Course>('course', course)
    return { ...coil, notches, course, weeks: c.weeks, grades: c.grades }
  }

  function put(coil: Coil) {
    sites.value = sites.value.map((s) => {
      if (!s.coils.some((c) => c.coil_id === coil.coil_id)) return s
      const coils = s.coils.map((c) => (c.coil_id === coil.coil_id ? coil : c))
      const grades = s.grades.map((_, w) => Math.max(...coils.map((c) => c.grades[w] ?? 0)))
      return { ...s, coils, grades }
    })
  }

  let base: { key: string; sites: Forecast['sites']; rounds: Sequence[]; load: Load[]; from: string } | null =
    null
  let running: Promise<void> = Promise.resolve()
  const trying = ref<{ key: string; day: string; adds: number; crew?: string } | null>(null)

  /** Tries a notch on another day: everything is shown as it would be, and can still be taken back. */
  function tryDay(key: string, day: string) {
    running = running.then(() => tried(key, day))
    return running
  }
  async function tried(key: string, day: string) {
    const at = find(key)
    if (!at) return
    if (base?.key !== key)
      base = { key, sites: sites.value, rounds: rounds.value, load: load.value, from: at.notch.day }
    sites.value = base.sites
    rounds.value = base.rounds
    load.value = base.load
    refused.value = ''
    if (day === base.from) {
      trying.value = { key, day, adds: 0 }
      return
    }
    try {
      const q = await part(key, [base.from, day])
      const moved = await compute<Moved>('move', { ...q, job: key, day })
      if (!moved.possible) {
        refused.value = `${at.coil.tag} on ${day}: ${refusals[moved.reason?.code ?? ''] ?? 'not possible'}`
        trying.value = { key, day: base.from, adds: 0 }
        return
      }
      const changed = new Set(moved.rounds.map((r) => r.crew + r.day))
      rounds.value = [
        ...base.rounds.filter((r) => !changed.has(r.crew + r.day)),
        ...moved.rounds.filter((r) => r.jobs.length),
      ]
      load.value = base.load.map((l) => ({
        ...l,
        planned_minutes: moved.load
          .filter((c) => c.crew === l.crew && c.from === l.from)
          .reduce((sum, c) => sum + c.minutes, l.planned_minutes),
      }))
      trying.value = { key, day, adds: moved.adds, crew: moved.crew }
      put(await recoloured(at.coil, key, day))
    } catch (e) {
      refused.value = e instanceof CoreProblem ? e.message : 'The calculator could not be loaded.'
    }
  }

  function settle() {
    const t = trying.value
    if (!base || !t || t.day === base.from) {
      cancel()
      return
    }
    steps.value = [
      ...steps.value,
      {
        key: t.key,
        from: base.from,
        to: t.day,
        adds: t.adds,
        before: { sites: base.sites, rounds: base.rounds, load: base.load },
      },
    ]
    base = null
    trying.value = null
  }
  function cancel() {
    if (base) {
      sites.value = base.sites
      rounds.value = base.rounds
      load.value = base.load
    }
    base = null
    trying.value = null
  }
  function undo() {
    cancel()
    const last = steps.value.at(-1)
    if (!last) return
    sites.value = last.before.sites
    rounds.value = last.before.rounds
    load.value = last.before.load
    steps.value = steps.value.slice(0, -1)
    refused.value = ''
  }
  const adds = computed(() => steps.value.reduce((sum, s) => sum + s.adds, 0) + (trying.value?.adds ?? 0))
  /** The moves as the server takes them: each notch once, where it ended. */
  const moves = computed(() => {
    const last = new Map<string, string>()
    for (const s of steps.value) last.set(s.key, s.to)
    return [...last].map(([key, day]) => ({ key, day }))
  })
  return { sites, load, steps, refused, trying, adds, moves, tryDay, settle, cancel, undo }
}
