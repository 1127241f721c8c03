import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { samplePack } from '../../test/sample'
import { gradeOf } from '../../words'
import { ringsAt, runs } from './clock'
import { lean } from './judged'
import {
  begin,
  drop,
  keep,
  kept,
  mapShare,
  missedCells,
  nextDwell,
  outcomeOf,
  jobsOf,
  type Step,
  toNextDwell,
  toVisit,
  type Work,
} from './ledVisit'
import { formOf, stepForms } from './stepForms'

let pack = samplePack()
let work: Work

/** A brush and vacuum on both sides, seen with light. */
function brushed(w: Work): Work {
  const c = w.coils[0]!
  c.method = 'brush_vacuum'
  c.direction = 'along_fins'
  for (const s of c.sides) {
    s.reached = true
    s.found = [{ row: 0, column: 0, grade: 3 }]
    s.seen = 'light_through'
    s.left = [{ row: 0, column: 0, grade: 0 }]
  }
  w.people = [{ person_id: 'p1', minutes: 40 }]
  return w
}
const gate = (code: string): Step => ({ code, phase: 'safe', text: 'Isolate', why: 'it bites', gate: true })

beforeEach(() => {
  localStorage.clear()
  pack = samplePack()
  work = begin(pack, pack.today, 'p1')
})
afterEach(() => vi.unstubAllGlobals())

describe('a draft', () => {
  it('comes back as it was left', () => {
    brushed(work)
    expect(keep(work)).toBe('')
    expect(kept('unit-1')).toEqual(work)
    drop('unit-1')
    expect(kept('unit-1')).toBeNull()
  })
  it('that is damaged is no draft', () => {
    localStorage.setItem('work:unit-1', '{"key": 5')
    expect(kept('unit-1')).toBeNull()
  })
  it('says at once when the phone is full', () => {
    const full = {
      ...localStorage,
      setItem: () => {
        throw new DOMException('full', 'QuotaExceededError')
      },
    }
    vi.stubGlobal('localStorage', full)
    expect(keep(work)).toContain('This phone is full')
  })
  it('says when the phone keeps nothing at all', () => {
    vi.stubGlobal('localStorage', {
      setItem: () => {
        throw new Error('denied')
      },
    })
    expect(keep(work)).toContain('do not close or reload')
  })
  it('has nothing ticked of the water, whatever the register says', () => {
    for (const water of ['yes', 'no', 'unknown'] as const) {
      pack.place.water = water
      expect(begin(pack, pack.today, '').place.water).toBeNull()
    }
  })
})

describe('grades', () => {
  it('begin at their edges', () => {
    expect([0, 0.049, 0.05, 0.3, 0.299, 0.75, 1].map(gradeOf)).toEqual([0, 0, 1, 3, 2, 5, 5])
  })
  it('of a map are the mean of its cells, those not reached left out', () => {
    expect(mapShare([])).toBeNull()
    expect(
      mapShare([
        { row: 0, column: 0, grade: 0 },
        { row: 0, column: 1, grade: 5 },
      ]),
    ).toBeCloseTo((0.025 + 0.875) / 2)
    expect(
      mapShare([
        { row: 0, column: 0, grade: 2 },
        { row: 0, column: 1, why_not: 'tray' },
      ]),
    ).toBeCloseTo(0.225)
    expect(missedCells([{ row: 0, column: 0, why_not: 'tray' }])).toBe(true)
    expect(missedCells([{ row: 0, column: 0 }])).toBe(false)
  })
})

describe('the jobs of a visit', () => {
  it('follow what the visit is for', () => {
    work.jobs = ['companion', 'deep']
    expect(jobsOf(work)).toEqual(['deep', 'companion'])
    work.coils[0]!.work = 'light'
    expect(jobsOf(work)).toEqual(['light', 'companion'])
    work.jobs = ['companion']
    expect(jobsOf(work)).toEqual(['companion'])
    work.surfaces = { wheel: { grade: 3, left: 1 }, filter: { grade: null, left: null } }
    expect(toVisit(pack, work, work.started_at)).toMatchObject({
      jobs: ['companion'],
      surfaces: [{ part: 'wheel', grade: 3, left: 1 }],
    })
  })
})

describe('a cleaner put on twice', () => {
  it('keeps the dwell of each pass', () => {
    const c = brushed(work).coils[0]!
    const foam = {
      method: 'foam_rinse',
      cleaner: 'heavy_alkaline',
      direction: 'against_airflow' as const,
      out: false,
    }
    c.method = 'foam_rinse'
    c.cleaner = 'heavy_alkaline'
    c.passes = [
      { ...foam, main: true, min_s: 300, max_s: 600 },
      { ...foam, main: false, min_s: 300, max_s: 600, planned_l: 0.4 },
    ]
    c.timer = { min_s: 300, max_s: 600, sprayed: 1000, rinsed: 361_000, done: null, over: '', foam: 'brown' }
    expect(nextDwell(c)).toBe(c.passes[1])
    toNextDwell(c)
    expect(c.timer).toMatchObject({ sprayed: null, max_s: 600 })
    expect(nextDwell(c)).toBeUndefined()
    Object.assign(c.timer, { sprayed: 1_000_000, rinsed: 1_420_000, foam: 'white' })
    const sent = toVisit(pack, work, work.started_at).coils[0]!.treatments
    expect(sent.map((t) => t.dwell_s)).toEqual([360, 420])
    expect(sent.map((t) => t.planned_l)).toEqual([undefined, 0.4])
    expect(sent[1]!.end_points).toEqual(['foam_white_still'])
  })
})

describe('nothing that claims', () => {
  it('is there before somebody says so', () => {
    const s = work.coils[0]!.sides[0]!
    expect([s.reached, s.seen, s.left_seen]).toEqual([null, '', ''])
    expect([work.isolation.discharged, work.isolation.meter_tried, work.isolation.secured]).toEqual([
      null,
      null,
      '',
    ])
    expect(work.people[0]!.minutes).toBeNull()
    // Of two sides one is said to be reached: of the other nothing is sent.
    s.reached = true
    s.found = [{ row: 0, column: 0, grade: 2 }]
    expect(toVisit(pack, work, '').coils[0]!.sides).toMatchObject([{ surface_id: 's1', found: { seen: '' } }])
  })
  it('is sent of water and mix that the plan only asks for', () => {
    const c = brushed(work).coils[0]!
    Object.assign(c, {
      method: 'foam_rinse',
      cleaner: 'heavy_alkaline',
      water_parts: 4,
      planned_mix_l: 5,
      planned_rinse_l: 20,
      planned_l: 1,
    })
    const t = () => toVisit(pack, work, '').coils[0]!.treatments[0]!
    expect(t()).toMatchObject({ planned_l: 1 })
    expect(t()).not.toHaveProperty('mix_l')
    expect(t()).not.toHaveProperty('rinse_l')
    Object.assign(c, { loaded_l: 1.5, returned_l: 0.5, rinse_l: 18 })
    expect(t()).toMatchObject({ mix_l: 5, rinse_l: 18 })
  })
  it('is held against yesterday where the phone was without network', () => {
    expect(lean(pack, '2026-03-05').today).toBe('2026-03-05')
    expect(lean(pack, '2026-03-01').today).toBe('2026-03-04')
  })
})

describe('the record', () => {
  it('is partly done when a side was not reached', () => {
    brushed(work)
    expect(outcomeOf(work)).toBe('done')
    work.coils[0]!.sides[1]!.reached = false
    expect(outcomeOf(work)).toBe('partly')
    work.outcome = 'weather'
    expect(outcomeOf(work)).toBe('weather')
  })
  it('holds what was tapped, and nothing that was not', () => {
    brushed(work)
    work.coils[0]!.sides[1]!.reached = false
    work.coils[0]!.sides[1]!.why_not = 'cable tray'
    const v = toVisit(pack, work, '2026-03-04T10:00:00Z')
    expect(v.outcome).toBe('partly')
    expect(v.coils[0]!.sides[0]).toMatchObject({
      reached: true,
      found: { grade: 3, seen: 'light_through' },
      left: { grade: 0 },
    })
    expect(v.coils[0]!.sides[1]).toEqual({ surface_id: 's2', reached: false, why_not: 'cable tray' })
    expect(v.coils[0]!.treatments[0]).toMatchObject({ method_id: 'm1', surface_ids: ['s1'] })
    expect(v.coils[0]!.treatments[0]).not.toHaveProperty('cleaner_id')
    expect(v).not.toHaveProperty('isolation')
    expect(v).not.toHaveProperty('note')
  })
  it('of a visit without work has no coils', () => {
    brushed(work).outcome = 'refused'
    expect(toVisit(pack, work, '').coils).toEqual([])
  })
  it('keeps the dwell of a coil in seconds', () => {
    brushed(work)
    Object.assign(work.coils[0]!, {
      method: 'foam_rinse',
      cleaner: 'heavy_alkaline',
      water_parts: 6,
      timer: { min_s: 300, max_s: 600, sprayed: 1000, rinsed: 421_000, done: null, over: '', foam: '' },
    })
    expect(toVisit(pack, work, '').coils[0]!.treatments[0]).toMatchObject({
      dwell_s: 420,
      water_parts: 6,
      cleaner_id: 'k1',
    })
  })
})

describe('a dwell clock', () => {
  const t = { min_s: 300, max_s: 600, sprayed: 0, rinsed: null, done: null, over: '', foam: '' } as never
  it('rings before the minimum, before the maximum and at it', () => {
    expect(ringsAt(t, -1)).toBe(280_000)
    expect(ringsAt(t, 280_000)).toBe(540_000)
    expect(ringsAt(t, 540_000)).toBe(600_000)
    expect(ringsAt(t, 600_000)).toBeNull()
  })
  it('runs from spraying to rinsing', () => {
    expect(runs(null)).toBe(false)
    expect(runs(t)).toBe(true)
    expect(runs({ ...(t as object), rinsed: 5 } as never)).toBe(false)
  })
})

describe('forms of steps', () => {
  it('have a part of the screen each, given what it needs', () => {
    expect(
      formOf({ ...gate('isolate'), form: 'isolation' })?.props({
        step: { ...gate('lock_tag'), proof: 'plug' },
        pack,
        guest: false,
      }),
    ).toEqual({
      step: 'lock_tag',
      proof: 'plug',
    })
    expect(stepForms.readings_after.props({ step: gate('x'), pack, guest: true })).toMatchObject({
      phase: 'after',
      guest: true,
    })
    expect(stepForms.count.props({ step: gate('count_back'), pack, guest: false })).toMatchObject({
      form: 'count',
      back: true,
    })
    expect(formOf(gate('isolate'))).toBeUndefined()
  })
})
