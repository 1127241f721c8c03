import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { Schemas } from '../api/client'
import { session, takeSession } from '../session'
import {
  dropErrand,
  dropFromOutbox,
  flush,
  founds,
  giveBack,
  putFound,
  putInOutbox,
  reached,
  readOutbox,
  returned,
  takeBack,
  waiting,
} from './outbox'
import { keptUnits, packFor } from './packs'
import { putDown } from './device'
import { shelf, unsent, wipe } from './shelf'
import { samplePack } from '../test/sample'

/** A server that answers what the test says, in order; a thrown answer is no network. */
const server = vi.hoisted(() => {
  const s = { answers: [] as (() => Response)[], asked: [] as Request[] }
  // The client takes fetch as it finds it when it is made.
  globalThis.fetch = ((r: Request) => {
    s.asked.push(r)
    return Promise.resolve().then(
      s.answers.shift() ??
        (() => {
          throw new TypeError('no network')
        }),
    )
  }) as typeof fetch
  return s
})
const json = (status: number, body: unknown) => () =>
  new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
const gone = (): Response => {
  throw new TypeError('no network')
}

const visit = (note: string) =>
  ({ unit_id: 'unit-1', day: '2026-03-04', outcome: 'done', note }) as unknown as Schemas['NewVisit']
const put = (key: string, more: Partial<Parameters<typeof putInOutbox>[0]> = {}) =>
  putInOutbox({
    key,
    tag: 'HO-CU-1',
    visit: visit(key),
    photos: [],
    work: JSON.stringify({ unit_id: 'unit-1', key }),
    token: '',
    ...more,
  })

beforeEach(async () => {
  localStorage.clear()
  server.answers = []
  server.asked = []
  takeSession({ person_id: 'me', login: 'technician', role: 'technician' } as unknown as Schemas['Session'])
  const db = await shelf()
  for (const store of ['outbox', 'photos', 'packs', 'returns', 'founds'] as const) await db.clear(store)
  await readOutbox()
})

describe('the outbox', () => {
  it('sends each visit once, under its own key, in the order it was written', async () => {
    await put('a')
    await put('b')
    server.answers = [json(201, { id: 'a', clocks: [] }), json(201, { id: 'b', clocks: [] })]
    await Promise.all([flush(), flush()])
    expect(server.asked.map((r) => r.headers.get('Idempotency-Key'))).toEqual(['a', 'b'])
    expect(waiting.value.map((w) => w.state)).toEqual(['sent', 'sent'])
    await flush()
    expect(server.asked).toHaveLength(2)
  })
  it('keeps what could not be sent, and sends it again with the same key', async () => {
    await put('a')
    await put('b')
    await flush()
    expect(reached.value).toBe(false)
    expect(waiting.value.map((w) => w.state)).toEqual(['waiting', 'waiting'])
    expect(server.asked).toHaveLength(1) // without network the rest is not tried
    server.answers = [json(503, { detail: 'the database cannot be reached' })]
    await flush()
    expect(waiting.value[0]).toMatchObject({ state: 'waiting', problem: 'the database cannot be reached' })
    server.answers = [json(201, { id: 'a', clocks: [] }), json(201, { id: 'b', clocks: [] })]
    await flush()
    expect(waiting.value.map((w) => w.state)).toEqual(['sent', 'sent'])
    expect(server.asked.every((r) => ['a', 'b'].includes(r.headers.get('Idempotency-Key') ?? ''))).toBe(true)
  })
  it('keeps a refused visit with the reasons, and goes on with the next', async () => {
    await put('a')
    await put('b')
    server.answers = [
      json(422, {
        detail: 'Some entries cannot be used.',
        errors: [{ pointer: '/day', reason: 'is in the future' }],
      }),
      json(201, { id: 'b', clocks: [] }),
    ]
    await flush()
    expect(waiting.value.map((w) => w.state)).toEqual(['refused', 'sent'])
    expect(waiting.value[0]!.fields[0]!.reason).toBe('is in the future')
  })
  it('takes a refused visit back as a draft under a new key', async () => {
    await put('a')
    server.answers = [json(409, { detail: 'superseded' })]
    await flush()
    expect(await takeBack(waiting.value[0]!)).toBe('/units/unit-1/work')
    const draft = JSON.parse(localStorage.getItem('work:me:unit-1')!) as { key: string }
    expect(draft.key).not.toBe('a')
    expect(waiting.value).toEqual([])
  })
  it('asks to sign in again and waits', async () => {
    await put('a')
    server.answers = [json(401, { detail: 'sign in' })]
    await flush()
    expect(waiting.value[0]).toMatchObject({ state: 'waiting', problem: 'Sign in again to send it.' })
  })
  it('is of one person: another on the same phone neither sees nor sends it', async () => {
    await put('a')
    putDown('work:me:unit-1', { key: 'x' })
    takeSession({ ...session.value!, person_id: 'somebody else' })
    await readOutbox()
    expect(waiting.value).toEqual([])
    expect(await unsent()).toEqual({ visits: 0, begun: 0 })
    await flush()
    expect(server.asked).toEqual([])
    expect(await unsent('me')).toEqual({ visits: 1, begun: 1 })
    takeSession({ ...session.value!, person_id: 'me' })
    await readOutbox()
    expect(waiting.value.map((w) => w.key)).toEqual(['a'])
  })
  it('is gone with everything of its owner once that is removed', async () => {
    await put('a')
    putDown('work:me:unit-1', { key: 'x' })
    putDown('work:you:unit-1', { key: 'y' })
    putDown('clocks:me:unit-1', [])
    putDown('load:me:round-1', ['hose'])
    await giveBack({
      key: 'r',
      round_id: 'round-1',
      unit_id: 'unit-1',
      tag: 'HO-CU-1',
      body: { key: 'k', kind: 'no_time', note: 'late' },
    })
    expect(await unsent()).toEqual({ visits: 2, begun: 1 })
    await wipe('me')
    expect(Object.keys(localStorage).filter((k) => k.includes(':me:'))).toEqual([])
    expect(await unsent()).toEqual({ visits: 0, begun: 0 })
    await readOutbox()
    expect(waiting.value).toEqual([])
    expect(localStorage.getItem('work:you:unit-1')).not.toBeNull()
  })
  it('sends photos after the visit, and one that came before counts as sent', async () => {
    const db = await shelf()
    for (const id of ['p1', 'p2'])
      await db.put('photos', {
        id,
        unit_id: 'unit-1',
        name: id,
        step: 'as_left',
        phase: 'after',
        surface_id: '',
        watch_id: '',
        blob: new Blob(['x']),
      })
    await put('a', { photos: ['p1', 'p2'] })
    server.answers = [json(201, { id: 'a', clocks: [] }), json(409, { detail: 'is there' }), gone]
    await flush()
    expect(waiting.value[0]).toMatchObject({ state: 'photos', photos: ['p2'] })
    server.answers = [json(201, {})]
    await flush()
    expect(waiting.value[0]!.state).toBe('sent')
    expect(await db.count('photos')).toBe(0)
    expect(server.asked.filter((r) => r.url.includes('/visits'))).toHaveLength(1)
  })
  it('sends what is given back and found, once each, and keeps what is refused', async () => {
    await giveBack({
      key: 'r',
      round_id: 'round-1',
      unit_id: 'unit-1',
      tag: 'HO-CU-1',
      body: { key: 'k', kind: 'no_time', note: 'late' },
    })
    await putFound({ key: 'f', site: 'Yard', body: { site_id: 's', place: 'roof' }, photo: new Blob(['x']) })
    await flush()
    expect([returned.value[0]!.state, founds.value[0]!.state]).toEqual(['waiting', 'waiting'])
    server.answers = [json(201, {}), json(201, {}), gone]
    await flush()
    expect([returned.value[0]!.state, founds.value[0]!.state]).toEqual(['sent', 'photos'])
    server.answers = [json(201, {})]
    await flush()
    expect(founds.value[0]).toMatchObject({ state: 'sent', photo: null })
    await giveBack({
      key: 'r2',
      round_id: 'round-1',
      unit_id: 'unit-1',
      tag: 'HO-CU-1',
      body: { key: 'k', kind: 'other', note: 'x' },
    })
    server.answers = [json(409, { detail: 'was given back already' })]
    await flush()
    expect(returned.value[1]).toMatchObject({ state: 'refused', problem: 'was given back already' })
    await dropErrand('returns', 'r2')
    expect(returned.value).toHaveLength(1)
  })
  it('drops a visit with its photos', async () => {
    const db = await shelf()
    await db.put('photos', {
      id: 'p1',
      unit_id: 'unit-1',
      name: 'x',
      step: '',
      phase: '',
      surface_id: '',
      watch_id: '',
      blob: new Blob(['x']),
    })
    await put('a', { photos: ['p1'] })
    await dropFromOutbox('a')
    expect(await db.count('photos')).toBe(0)
    expect(waiting.value).toEqual([])
  })
})

describe('packs', () => {
  it('are fresh from the server and kept, and serve without network', async () => {
    const pack = samplePack()
    server.answers = [json(200, pack)]
    expect(await packFor('unit-1')).toMatchObject({ fresh: true, unkept: '' })
    expect(await packFor('unit-1')).toMatchObject({ fresh: false, pack: { unit: { tag: 'HO-CU-1' } } })
    await expect(packFor('unit-2')).rejects.toThrow('was not kept on the phone')
    server.answers = [json(404, { detail: 'There is no such unit.' })]
    await expect(packFor('unit-1')).rejects.toThrow('no such unit')
  })
  it('that cannot be kept open all the same, and say so', async () => {
    const db = await shelf()
    vi.spyOn(db, 'put').mockRejectedValue(new DOMException('full', 'QuotaExceededError'))
    server.answers = [json(200, samplePack())]
    expect((await packFor('unit-1')).unkept).toContain('This phone is full')
    expect(await keptUnits()).toEqual([])
  })
})
