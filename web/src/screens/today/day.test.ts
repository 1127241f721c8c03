import { describe, expect, it } from 'vitest'

import type { Schemas } from '../../api/client'
import type { Returned, Waiting } from '../../offline/shelf'
import { clockSkew } from '../../parts/clockSkew'
import { mapOf, nextAfter, unitsAt, workAt } from './day'

const job = (unit: string, key: string, visit_for: string[]) =>
  ({ unit_id: unit, key, tag: unit.toUpperCase(), minutes: 10, visit_for }) as unknown as Schemas['Job']
const stop = {
  site: 'Yard',
  address: '1 Quay',
  jobs: [job('a', 'a1', ['light']), job('b', 'b1', ['companion']), job('a', 'a2', ['look', 'light'])],
} as unknown as Schemas['Stop']
const round = (progress: object[] = []) =>
  ({ id: 'r', day: '2026-03-04', stops: [stop], progress }) as unknown as Schemas['Round']
const phone = (over: object = {}) => ({ begun: [], waiting: [], returned: [], ...over })
const state = (r: Schemas['Round'], over: object = {}) => unitsAt(stop, r, phone(over)).map((u) => u.state)

describe('the units of a stop', () => {
  it('come once each, with all their jobs', () => {
    const [a, b] = unitsAt(stop, round(), phone())
    expect(a).toMatchObject({ tag: 'A', visit_for: ['light', 'look'], minutes: 20, state: 'open' })
    expect(a!.jobs.map((j) => j.key)).toEqual(['a1', 'a2'])
    expect(workAt(b!, 'r')).toBe('/units/b/work?job=companion&round=r')
  })
  it('show what this phone knows before what the server knows', () => {
    const sent = (outcome: string, s: string) =>
      [
        { visit: { unit_id: 'a', day: '2026-03-04', outcome, note: 'shut' }, state: s },
      ] as unknown as Waiting[]
    expect(state(round(), { begun: ['a'] })).toEqual(['begun', 'open'])
    expect(state(round(), { waiting: sent('done', 'waiting') })).toEqual(['waiting', 'open'])
    expect(state(round(), { waiting: sent('done', 'sent') })).toEqual(['done', 'open'])
    expect(state(round(), { waiting: sent('no_access', 'waiting') })).toEqual(['no_access', 'open'])
    expect(state(round(), { waiting: sent('done', 'refused') })).toEqual(['open', 'open'])
    const back = (key: string) =>
      ({ round_id: 'r', unit_id: 'a', body: { key, note: 'late' }, state: 'sent' }) as unknown as Returned
    expect(state(round(), { returned: [back('a1')] })).toEqual(['open', 'open'])
    expect(state(round(), { returned: [back('a1'), back('a2')] })).toEqual(['given_back', 'open'])
    const told = (key: string, s: string) => ({ key, unit_id: 'a', state: s, why: '' })
    expect(state(round([told('a1', 'done'), told('a2', 'partly')]))).toEqual(['done', 'open'])
    expect(state(round([told('a1', 'given_back')]))).toEqual(['open', 'open'])
  })
  it('follow one another, back to what was left', () => {
    const units = unitsAt(stop, round(), phone())
    expect(nextAfter(units, 'a')?.unit_id).toBe('b')
    expect(nextAfter(units, 'b')?.unit_id).toBe('a')
    for (const u of units) u.state = 'done'
    expect(nextAfter(units, 'a')).toBeUndefined()
  })
})

describe('an address', () => {
  it('opens the map by place, or by its words', () => {
    expect(mapOf(stop)).toBe('geo:0,0?q=Yard%2C%201%20Quay')
    expect(mapOf({ ...stop, lat: 1.5, lon: 2 })).toBe('geo:1.5,2?q=1.5,2(Yard%2C%201%20Quay)')
  })
})

describe('a clock', () => {
  it('is wrong from two minutes on', () => {
    expect(clockSkew(null)).toBeNull()
    expect(clockSkew(119_000)).toBeNull()
    expect(clockSkew(720_000)?.words).toBe('12 min ahead of')
    expect(clockSkew(-3_900_000)?.words).toBe('1 h 5 min behind')
  })
})
