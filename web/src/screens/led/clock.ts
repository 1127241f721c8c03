import { useDocumentVisibility, useIntervalFn, useWakeLock } from '@vueuse/core'
import { ref, watch } from 'vue'

import type { Timer } from './ledVisit'
import type { RunningClock } from './running'

/** Minutes and seconds. */
export function clockOf(seconds: number): string {
  const s = Math.max(0, Math.round(seconds))
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
}

/** The time, four times a second; only for showing: what has passed is always reckoned from clock times. */
export function useClock() {
  const now = ref(Date.now())
  useIntervalFn(() => (now.value = Date.now()), 250)
  return { now }
}

/** It rings this long before the minimum and before the maximum, in seconds (assumption). */
export const beforeMin = 20
export const beforeMax = 60

export const runs = (t: Timer | null): t is Timer & { sprayed: number } =>
  !!t && t.sprayed !== null && t.rinsed === null

/** The next moment a running clock rings, in milliseconds; null when it has rung for all. */
export function ringsAt(t: Pick<RunningClock, 'sprayed' | 'min_s' | 'max_s'>, after: number): number | null {
  const moments = [
    t.sprayed + (t.min_s - beforeMin) * 1000,
    t.sprayed + (t.max_s - beforeMax) * 1000,
    t.sprayed + t.max_s * 1000,
  ]
  return moments.filter((m) => m > after).sort((a, b) => a - b)[0] ?? null
}

let sound: AudioContext | null = null

/** Three tones and a buzz. Browsers allow sound only after a tap; the tap that starts a clock is one. */
export function ring(): void {
  navigator.vibrate?.([300, 150, 300, 150, 500])
  try {
    sound ??= new AudioContext()
    for (const at of [0, 0.35, 0.7]) {
      const tone = sound.createOscillator()
      const loud = sound.createGain()
      tone.frequency.value = 880
      loud.gain.setValueAtTime(0.4, sound.currentTime + at)
      loud.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + at + 0.3)
      tone.connect(loud).connect(sound.destination)
      tone.start(sound.currentTime + at)
      tone.stop(sound.currentTime + at + 0.3)
    }
  } catch {
    // Without sound the buzz and the screen remain.
  }
}

export interface AwayNote {
  name: string
  stood: number
  over: number
}

/**
 * Watches the running clocks: rings, keeps the screen awake, and on coming back to the page says first what truly passed.
 */
export function useTimers(running: () => RunningClock[]) {
  const away = ref<AwayNote[]>([])
  const rung = ref('')
  const wake = useWakeLock()
  const visible = useDocumentVisibility()
  let seen = Date.now()

  /** The screen stays awake while a clock runs; where the phone refuses, the clock still counts. */
  async function awake() {
    const wanted = running().length > 0 && visible.value === 'visible'
    if (wanted !== wake.isActive.value)
      await (wanted ? wake.request('screen') : wake.release()).catch(() => undefined)
  }

  function lookUp() {
    away.value = running().map((c) => {
      const stood = (Date.now() - c.sprayed) / 1000
      return { name: c.name, stood, over: Math.max(0, stood - c.max_s) }
    })
    seen = Date.now()
  }

  useIntervalFn(() => {
    void awake()
    const t0 = seen
    seen = Date.now()
    if (visible.value !== 'visible') return
    for (const c of running()) {
      const at = ringsAt(c, t0)
      if (at !== null && at <= seen) {
        const left = c.max_s - (seen - c.sprayed) / 1000
        rung.value =
          left <= 0
            ? `${c.name}: past its maximum. Rinse now.`
            : left <= beforeMax
              ? `${c.name}: ${clockOf(left)} to its maximum.`
              : `${c.name}: its minimum is near. Look at the foam.`
        ring()
      }
    }
  }, 500)
  watch(visible, (v) => {
    if (v === 'visible') lookUp()
  })
  return { away, rung, lookUp }
}
