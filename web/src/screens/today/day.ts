import type { Schemas } from '../../api/client'
import type { Returned, Waiting } from '../../offline/shelf'

/** A unit of the day with all its jobs there. */
export interface DayUnit {
  unit_id: string
  tag: string
  class: string
  placement: string
  jobs: Schemas['Job'][]
  /** What a visit for them is for. */
  visit_for: Schemas['VisitJob'][]
  minutes: number
  state: DayState
  why: string
}

/** open, begun on this phone, kept to be sent, or what the server knows became of it. */
export type DayState = 'open' | 'begun' | 'waiting' | Schemas['JobProgress']['state']

/** What became of a job, in words. */
export const progressWords: Record<Schemas['JobProgress']['state'], string> = {
  done: 'Done',
  partly: 'Partly done',
  no_access: 'No access',
  refused: 'Refused',
  weather: 'Weather',
  unsafe: 'Unsafe',
  not_found: 'Not found',
  given_back: 'Not done, given back',
}

/** Whether the crew is through with a unit. */
export const isOver = (s: DayState): boolean => s !== 'open' && s !== 'begun'

/** The units of a stop in their order, each once, with what became of them: on this phone first, then by the server. */
export function unitsAt(
  stop: Schemas['Stop'],
  round: Schemas['Round'],
  phone: { begun: string[]; waiting: Waiting[]; returned: Returned[] },
): DayUnit[] {
  const out: DayUnit[] = []
  for (const j of stop.jobs) {
    const known = out.find((u) => u.unit_id === j.unit_id)
    if (known) {
      known.jobs.push(j)
      known.minutes += j.minutes
      for (const v of j.visit_for ?? []) if (!known.visit_for.includes(v)) known.visit_for.push(v)
      continue
    }
    out.push({
      unit_id: j.unit_id,
      tag: j.tag,
      class: j.class,
      placement: j.placement,
      jobs: [j],
      visit_for: [...(j.visit_for ?? [])],
      minutes: j.minutes,
      state: 'open',
      why: '',
    })
  }
  for (const u of out) Object.assign(u, became(u, round, phone))
  return out
}

function became(
  u: DayUnit,
  round: Schemas['Round'],
  phone: { begun: string[]; waiting: Waiting[]; returned: Returned[] },
): { state: DayState; why: string } {
  if (phone.begun.includes(u.unit_id)) return { state: 'begun', why: '' }
  const here = phone.waiting.find((w) => w.visit.unit_id === u.unit_id && w.visit.day === round.day)
  if (here && here.state !== 'refused') {
    const worked = here.visit.outcome === 'done' || here.visit.outcome === 'partly'
    const sent = here.state === 'sent' || here.state === 'photos'
    return {
      state: sent || !worked ? here.visit.outcome : 'waiting',
      why: [worked ? '' : (here.visit.note ?? ''), sent ? '' : 'not sent yet'].filter(Boolean).join('; '),
    }
  }
  const back = phone.returned.filter((r) => r.round_id === round.id && r.unit_id === u.unit_id)
  if (back.length && u.jobs.every((j) => back.some((r) => r.body.key === j.key)))
    return {
      state: 'given_back',
      why: [back[0]!.body.note, back[0]!.state === 'waiting' ? 'not sent yet' : '']
        .filter(Boolean)
        .join('; '),
    }
  const told = round.progress.filter((p) => p.unit_id === u.unit_id)
  const best = told.find((p) => p.state === 'done') ?? told[0]
  if (!best) return { state: 'open', why: '' }
  // Of several jobs of a unit some may be left: what is open shows.
  if (best.state === 'given_back' && !u.jobs.every((j) => told.some((p) => p.key === j.key)))
    return { state: 'open', why: best.why }
  return { state: best.state, why: best.why }
}

/** The unit that comes next after one; the first that is open where none is named or none follows. */
export function nextAfter(all: DayUnit[], unit: string): DayUnit | undefined {
  const from = all.findIndex((u) => u.unit_id === unit)
  const open = (u: DayUnit) => !isOver(u.state)
  return all.slice(from + 1).find(open) ?? all.find(open)
}

/** Where the work at a unit goes on. */
export const workAt = (u: DayUnit, round: string): string =>
  `/units/${u.unit_id}/work?job=${u.visit_for.join(',')}&round=${round}`

/** An address that opens the phone's own map: by place where it is known, else by its words (RFC 5870). */
export function mapOf(stop: Schemas['Stop']): string {
  const words = encodeURIComponent([stop.site, stop.address].filter(Boolean).join(', '))
  const known = stop.lat !== undefined && stop.lon !== undefined
  return known ? `geo:${stop.lat},${stop.lon}?q=${stop.lat},${stop.lon}(${words})` : `geo:0,0?q=${words}`
}
