import { ref } from 'vue'

import { owner } from '../../offline/owner'
import type { CoilWork, Work } from './ledVisit'

/** A coil on which a cleaner stands, whatever screen is open. */
export interface RunningClock {
  unit_id: string
  coil_id: string
  name: string
  /** Clock times in milliseconds, and the window in seconds. */
  sprayed: number
  min_s: number
  max_s: number
}

/** The clocks that run on this phone, of all visits that were begun here. */
export const clocks = ref<RunningClock[]>([])

const place = (unit: string) => `clocks:${owner()}:${unit}`
const ofUnit = (w: Work): RunningClock[] =>
  w.coils.flatMap((c: CoilWork) =>
    c.timer && c.timer.sprayed !== null && c.timer.rinsed === null
      ? [
          {
            unit_id: w.unit_id,
            coil_id: c.coil_id,
            name: c.name ?? 'The coil',
            sprayed: c.timer.sprayed,
            min_s: c.timer.min_s,
            max_s: c.timer.max_s,
          },
        ]
      : [],
  )

/** Writes the running clocks of a visit down beside it, so that every screen finds them. */
export function keepClocks(w: Work): void {
  const list = ofUnit(w)
  try {
    if (list.length) localStorage.setItem(place(w.unit_id), JSON.stringify(list))
    else localStorage.removeItem(place(w.unit_id))
  } catch {
    // The visit's own screen says that the phone is full; the clock runs on as long as the page is open.
  }
  clocks.value = [...clocks.value.filter((c) => c.unit_id !== w.unit_id), ...list]
}
export function dropClocks(unit: string): void {
  localStorage.removeItem(place(unit))
  clocks.value = clocks.value.filter((c) => c.unit_id !== unit)
}

/** Finds the clocks again after a reload, and those of who is signed in. */
export function readClocks(): void {
  const mine = `clocks:${owner()}:`
  clocks.value = Object.keys(localStorage)
    .filter((k) => owner() && k.startsWith(mine))
    .flatMap((k) => {
      try {
        return JSON.parse(localStorage.getItem(k) ?? '[]') as RunningClock[]
      } catch {
        return []
      }
    })
}
