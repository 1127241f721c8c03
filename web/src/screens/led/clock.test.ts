import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, type EffectScope } from 'vue'

import { beforeMin, clockOf, useTimers } from './clock'
import type { Work } from './ledVisit'
import { clocks, keepClocks, readClocks, type RunningClock } from './running'
import { takeSession } from '../../session'
import type { Schemas } from '../../api/client'

const start = Date.parse('2026-03-04T10:00:00Z')

/** A coil on which a cleaner dwells, five to eight minutes. */
const dwelling = (): RunningClock[] => [
  { unit_id: 'u', coil_id: 'c', name: 'Condenser', sprayed: start, min_s: 300, max_s: 480 },
]

takeSession({ person_id: 'me', role: 'technician' } as unknown as Schemas['Session'])

describe('clocks', () => {
  let scope: EffectScope
  beforeEach(() => {
    vi.useFakeTimers({ now: start })
    scope = effectScope()
  })
  afterEach(() => {
    scope.stop()
    vi.useRealTimers()
  })
  const watched = (list: RunningClock[]) => scope.run(() => useTimers(() => list))!

  it('say when the minimum is near, when the maximum is, and when it has passed', () => {
    const { rung } = watched(dwelling())
    vi.advanceTimersByTime((300 - beforeMin - 1) * 1000)
    expect(rung.value).toBe('')
    vi.advanceTimersByTime(2000)
    expect(rung.value).toBe('Condenser: its minimum is near. Look at the foam.')
    vi.advanceTimersByTime(140_000)
    expect(rung.value).toMatch(/^Condenser: (1:00|0:59) to its maximum\.$/)
    vi.advanceTimersByTime(61_000)
    expect(rung.value).toBe('Condenser: past its maximum. Rinse now.')
  })

  it('are found again by every screen, until they are rinsed', () => {
    const timer = { sprayed: start as number | null, rinsed: null as number | null, min_s: 300, max_s: 480 }
    const w = { unit_id: 'u', coils: [{ coil_id: 'c', name: 'HO-CU-1', timer }] } as unknown as Work
    keepClocks(w)
    clocks.value = []
    readClocks()
    expect(clocks.value).toEqual([
      { unit_id: 'u', coil_id: 'c', name: 'HO-CU-1', sprayed: start, min_s: 300, max_s: 480 },
    ])
    timer.rinsed = start + 1000
    keepClocks(w)
    readClocks()
    expect(clocks.value).toEqual([])
    Object.assign(timer, { sprayed: null, rinsed: null }) // started by mistake
    keepClocks(w)
    expect(clocks.value).toEqual([])
  })

  it('tell after a reload what has truly passed', () => {
    vi.setSystemTime(start + 500_000)
    const { away, lookUp } = watched(dwelling())
    lookUp()
    expect(away.value).toEqual([{ name: 'Condenser', stood: 500, over: 20 }])
    expect(clockOf(away.value[0]!.stood)).toBe('8:20')
    expect(clockOf(-1)).toBe('0:00')
  })
})
