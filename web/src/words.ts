import type { Schemas } from './api/client'

/** The words of the trade for the contract's codes, and dates and numbers as people read them. */

import { gradeEdges } from './api/facts.gen'

export { gradeEdges, gradeNames, jobWords } from './api/facts.gen'

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
export const yesNoWords: Record<Schemas['YesNo'], string> = { yes: 'yes', no: 'no', unknown: 'not known' }
export const monthNames = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
]
export const lookKindWords: Record<Schemas['LookWorth']['kind'], string> = {
  light: 'A look with light through it',
  finding: 'A first dated finding, opened up',
  readings: 'Readings before and after the next clean',
}
export const callOutCauseWords: Record<Schemas['CallOutCause'], string> = {
  soiled_coil: 'Soiled coil',
  airflow: 'Fan or filter',
  iced: 'Iced over',
  water: 'Water, pan or drain',
  refrigerant: 'Refrigerant',
  electrical: 'Electrical',
  controls: 'Controls',
  misuse: 'How it was used',
  other: 'Something else',
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
  limit: 'Limit',
  cost: 'Least cost',
  own: 'Own choice',
}
export const rateFromWords: Record<Schemas['RateFrom'], string> = {
  assumed: 'assumed',
  peers: 'from its peers',
  own: 'its own',
}
export const capWords: Record<Schemas['CapKind'], string> = {
  contract: 'Contract',
  maker: 'Maker',
  hygiene: 'Hygiene',
  chemistry: 'Strong cleaner',
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
export const climateWords: Record<Schemas['Climate'], string> = {
  cool_coast: 'Cool coast',
  mild_coast: 'Mild coast',
  cold_inland: 'Cold inland',
  temperate_inland: 'Temperate inland',
  hot_summer: 'Hot summers, cold winters',
  mediterranean: 'Mediterranean',
  warm_humid: 'Warm and humid',
  hot_dry: 'Hot and dry',
  tropical_wet: 'Tropical, wet all year',
  tropical_dry: 'Tropical, with a dry season',
  highland: 'Highland',
  subpolar: 'Subpolar',
}
export const amountWords: Record<Schemas['Amount']['unit'], string> = {
  l: 'L',
  ml: 'mL',
  us_fl_oz: 'US fl oz',
  us_gal: 'US gal',
}

export const companionWords: Record<Schemas['CompanionKind'], string> = {
  inspect: 'inspection',
  filter: 'filters',
  grille: 'grille',
  tablet: 'pan tablets',
  drain: 'drain',
  pump: 'pump',
}
export const doerWords: Record<Schemas['Doer'], string> = {
  technician: 'technician',
  site_staff: 'site staff',
  contractor: 'contractor',
}
export const statusWords: Record<Schemas['UnitStatus'], string> = {
  planned: 'planned',
  in_service: 'in service',
  out_of_service: 'out of service',
  retired: 'retired',
}
export const constructionWords: Record<Schemas['CoilCard']['construction'], string> = {
  unstated: 'not stated',
  tube_fin: 'tube and fin',
  microchannel: 'microchannel',
  tube_grid: 'tube grid',
  rolled: 'rolled layers',
}
export const surfaceWords: Record<Schemas['SurfaceCard']['kind'], string> = {
  wheel: 'blower wheel',
  grille: 'grille',
  tray: 'tray and drain',
  base: 'base pan',
  trough: 'bottom trough',
  filter: 'filter',
}
export const isolationWords: Record<Schemas['AccessCard']['isolation_kind'], string> = {
  unstated: 'not stated',
  breaker: 'breaker',
  disconnect: 'disconnect',
  plug: 'plug',
}
export const fileWords: Record<string, string> = {
  photo: 'photo',
  data_sheet: 'data sheet',
  manual: 'manual',
  other: 'other',
}
export const roleOfPerson: Record<Schemas['Role'], string> = {
  manager: 'manager',
  technician: 'technician',
  viewer: 'viewer',
}
export const evidenceWords: Record<Schemas['Evidence'], string> = {
  published: 'published',
  common_practice: 'common practice',
  assumption: 'assumption',
}
export const verdictWords: Record<Schemas['ReadingJudgement']['verdict'], string> = {
  pass: 'Pass',
  borderline: 'Borderline',
  fail: 'Out of limits',
  cannot_judge: 'Cannot judge',
  no_verdict: '',
}
export const symptomWords: Record<Schemas['SymptomKind'], string> = {
  not_cold: 'Not cold though turned down',
  water: 'Water on the floor',
  buzzing: 'Buzzing or clicking',
  warm_goods: 'Goods are warming',
  hot_compressor: 'Compressor hot',
  stopped_after_mowing: 'Stopped right after mowing',
  other: 'Something else',
}
export const watchWords = { same: 'The same', worse: 'Worse', better: 'Better', gone: 'Gone' } as const
export const answerWords = {
  not_told: 'Not told yet',
  told: 'Told',
  agreed: 'Agreed',
  declined: 'Declined',
} as const
export const weekdays = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'] as const

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
/** A moment in the reader's own zone, short. */
const stamp = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
})
export const moment = (at: string): string => stamp.format(Date.parse(at))
export const longDay = (day: string): string => long.format(asTime(day)).replace(',', '')
export function monthOf(time: number): string {
  const d = new Date(time)
  return `${months[d.getUTCMonth()]} ${String(d.getUTCFullYear()).slice(2)}`
}

export const percent = (share: number): string =>
  share >= 0.995 ? 'over 99 %' : `${Math.round(share * 100)} %`

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

/** The grade of a blocked share. */
export const gradeOf = (share: number): number =>
  gradeEdges.slice(1, -1).filter((edge) => share >= edge).length
