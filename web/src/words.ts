import type { Schemas } from './api/client'

/** The words of the trade for the contract's codes, and dates and numbers as people read them. */

export const gradeNames = ['Bare', 'Film', 'Coat', 'Felt', 'Blanket', 'Blocked'] as const

export const roleWords: Record<Schemas['CoilRole'], string> = {
  condenser: 'condenser',
  evaporator: 'evaporator',
  outdoor: 'outdoor coil',
  back: 'back coil',
}
export const kindWords: Record<Schemas['TaskKind'], string> = { light: 'light clean', deep: 'deep clean' }
export const seenWords: Record<Schemas['Seen'], string> = {
  face_look: 'face look',
  light_through: 'light through',
  wiped_more_below: 'wiped, more below',
}
export const directionWords: Record<Schemas['Direction'], string> = {
  against_airflow: 'against the airflow',
  with_airflow: 'with the airflow',
  along_fins: 'along the fins',
  downward_closed: 'downward, closed',
}
export const outcomeWords: Record<Schemas['Outcome'], string> = {
  done: 'Done',
  partly: 'Partly done',
  no_access: 'No access',
  refused: 'Refused',
  weather: 'Weather',
  unsafe: 'Unsafe',
  not_found: 'Not found',
}
export const endPointWords: Record<Schemas['EndPoint'], string> = {
  foam_white_still: 'Foam white and still',
  clear_run_off: 'Run-off clear',
  light_through_all: 'Light through, everywhere reached',
  nothing_blows_out: 'Nothing more blows out',
  drain_runs_on: 'Drain runs on',
}
export const windowWords: Record<Schemas['Window']['kind'], string> = {
  open: 'open',
  allowed: 'work allowed',
  quiet: 'quiet hours',
  blackout: 'no work',
}
export const schoolWords: Record<Schemas['School'], string> = {
  habit: 'Habit',
  staircase: 'Staircase',
  own: 'Own choice',
}
export const qualityWords: Record<Schemas['LastCleanQuality'], string> = {
  exact: 'known',
  about: 'about',
  never: 'never cleaned',
  unknown: 'not known',
}
export const settingWords: Record<Schemas['Setting'], string> = {
  unstated: 'not stated',
  indoor: 'indoors',
  outdoor: 'outdoors',
  roof: 'roof',
  plant_room: 'plant room',
}
export const amountWords: Record<Schemas['Amount']['unit'], string> = {
  l: 'L',
  ml: 'mL',
  us_fl_oz: 'US fl oz',
  us_gal: 'US gal',
}

const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'] as const
const long = new Intl.DateTimeFormat('en-GB', {
  weekday: 'long',
  day: 'numeric',
  month: 'long',
  timeZone: 'UTC',
})

export const asTime = (day: string): number => Date.parse(`${day}T00:00:00Z`)
export const dayOf = (time: number): string => new Date(time).toISOString().slice(0, 10)

/** 5 Mar 2026, as the server writes it in its reasons. */
export function shortDay(day: string): string {
  const d = new Date(asTime(day))
  return `${d.getUTCDate()} ${months[d.getUTCMonth()]} ${d.getUTCFullYear()}`
}
export const longDay = (day: string): string => long.format(asTime(day)).replace(',', '')
export function monthOf(time: number): string {
  const d = new Date(time)
  return `${months[d.getUTCMonth()]} ${String(d.getUTCFullYear()).slice(2)}`
}

export const percent = (share: number): string => `${Math.round(share * 100)} %`

export function duration(minutes: number): string {
  const total = Math.round(minutes)
  const h = Math.floor(total / 60)
  if (h === 0) return `${total}\u00a0min`
  return total % 60 === 0 ? `${h}\u00a0h` : `${h}\u00a0h\u00a0${total % 60}\u00a0min`
}

export const count = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`

export const upperFirst = (s: string): string => s.slice(0, 1).toUpperCase() + s.slice(1)

/** When a task is due, in words. */
export function dueWords(t: { due: string; days_late: number; first_look: boolean }): string {
  if (t.first_look) return 'due now: no clean known'
  if (t.days_late > 0) return `${shortDay(t.due)}, ${t.days_late} d late`
  if (t.days_late === 0) return 'due today'
  return shortDay(t.due)
}
