import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, type EffectScope } from 'vue'

import { beforeMin, clockOf, useTimers } from './clock'
import type { Work } from './ledVisit'

const start = Date.parse('2026-03-04T10:00:00Z')

/** A visit with one coil on which a cleaner dwells, five to eight minutes. */
const dwelling = (over: object = {}) =>
  ({
    coils: [{ coil_id: 'c', timer: { sprayed: start, rinsed: null, min_s: 300, max_s: 480, ...over } }],
  }) as unknown as Work

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
  const watched = (work: Work) =>
    scope.run(() =>
      useTimers(
        () => work,
        () => 'Condenser',
      ),
    )!

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

  it('that were rinsed or never sprayed are silent', () => {
    for (const timer of [{ rinsed: start + 1000 }, { sprayed: null }]) {
      const { rung } = watched(dwelling(timer))
      vi.advanceTimersByTime(600_000)
      expect(rung.value).toBe('')
    }
  })

  it('tell after a reload what has truly passed', () => {
    vi.setSystemTime(start + 500_000)
    const { away, lookUp } = watched(dwelling())
    lookUp()
    expect(away.value).toEqual([{ coil: 'Condenser', stood: 500, over: 20 }])
    expect(clockOf(away.value[0]!.stood)).toBe('8:20')
    expect(clockOf(-1)).toBe('0:00')
  })
})
