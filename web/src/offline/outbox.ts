import { ref } from 'vue'

import { api, ask, asFile, problemOf, type Schemas } from '../api/client'
import { session } from '../session'
import { owner, ownKey } from './owner'
import { type Found, type Returned, shelf, type Waiting } from './shelf'

/** What waits on this phone, the oldest first. */
export const waiting = ref<Waiting[]>([])

/** The jobs given back on this phone, the oldest first. */
export const returned = ref<Returned[]>([])

/** The units found on this phone, the oldest first. */
export const founds = ref<Found[]>([])

/** Whether the last try reached the server. */
export const reached = ref(navigator.onLine)

let running: Promise<void> | null = null

export async function readOutbox(): Promise<void> {
  const rows = owner() ? await (await shelf()).getAll('outbox') : []
  waiting.value = rows.sort((a, b) => a.at.localeCompare(b.at))
  const back = owner() ? await (await shelf()).getAll('returns') : []
  returned.value = back.sort((a, b) => a.at.localeCompare(b.at))
  const met = owner() ? await (await shelf()).getAll('founds') : []
  founds.value = met.sort((a, b) => a.at.localeCompare(b.at))
}

/** Keeps a unit that is not in the register, for the office; it is sent as soon as the network is there. */
export async function putFound(f: Omit<Found, 'state' | 'problem' | 'at'>): Promise<void> {
  await (await shelf()).put('founds', { ...f, at: new Date().toISOString(), state: 'waiting', problem: '' })
  await readOutbox()
}

/** Takes what was sent, or will not be, off this phone. */
export async function dropErrand(store: 'returns' | 'founds', key: string): Promise<void> {
  await (await shelf()).delete(store, key)
  await readOutbox()
}

/** Gives a job back to the office; it is sent as soon as the network is there. */
export async function giveBack(r: Omit<Returned, 'state' | 'problem' | 'at'>): Promise<void> {
  await (await shelf()).put('returns', { ...r, at: new Date().toISOString(), state: 'waiting', problem: '' })
  await readOutbox()
}

/** Puts a visit into the outbox; from then on it is kept whatever happens to the page. */
export async function putInOutbox(
  w: Omit<Waiting, 'state' | 'problem' | 'fields' | 'at' | 'person_id'>,
): Promise<void> {
  const row: Waiting = {
    ...w,
    at: new Date().toISOString(),
    person_id: w.token ? '' : (session.value?.person_id ?? ''),
    state: 'waiting',
    problem: '',
    fields: [],
  }
  await (await shelf()).put('outbox', JSON.parse(JSON.stringify(row)) as Waiting)
  await readOutbox()
}

/** Takes a refused visit back as a draft, to be put right and sent again; gives where it goes on. */
export async function takeBack(w: Waiting): Promise<string> {
  const draft = JSON.parse(w.work) as { unit_id: string; key: string }
  draft.key = crypto.randomUUID()
  localStorage.setItem(ownKey('work', draft.unit_id), JSON.stringify(draft))
  await (await shelf()).delete('outbox', w.key)
  await readOutbox()
  return w.token ? `/g/${w.token}/units/${draft.unit_id}/work` : `/units/${draft.unit_id}/work`
}

export async function dropFromOutbox(key: string): Promise<void> {
  const db = await shelf()
  const row = await db.get('outbox', key)
  for (const id of row?.photos ?? []) await db.delete('photos', id)
  await db.delete('outbox', key)
  await readOutbox()
}

/** Sends what waits, one after another; a second call joins the first. Each visit goes under its own key, so that the server stores it once however often it arrives. */
export function flush(): Promise<void> {
  running ??= inTurn().finally(() => {
    running = null
  })
  return running
}

async function inTurn(): Promise<void> {
  await readOutbox()
  for (const w of waiting.value) {
    if (w.state !== 'waiting' && w.state !== 'photos') continue
    if (!w.token && session.value?.person_id !== w.person_id) continue
    if (!(await sendOne(w))) break
  }
  for (const r of returned.value) if (r.state === 'waiting' && !(await sendReturn(r))) break
  for (const f of founds.value)
    if ((f.state === 'waiting' || f.state === 'photos') && !(await sendFound(f))) break
  await readOutbox()
}

/** Sends a job given back; false when the server was not reached. */
async function sendReturn(row: Returned): Promise<boolean> {
  const r = await (await shelf()).get('returns', row.key)
  if (!r) return true
  try {
    const path = { round_id: r.round_id }
    const header = { 'Idempotency-Key': r.key }
    await ask(api.POST('/rounds/{round_id}/returns', { params: { header, path }, body: r.body }))
    Object.assign(r, { state: 'sent', problem: '' })
    reached.value = true
  } catch (e) {
    const p = problemOf(e)
    reached.value = p.status !== 0
    r.problem = p.status === 401 ? 'Sign in again to send it.' : p.message
    if (!isPassing(p.status)) r.state = 'refused'
  }
  await (await shelf()).put('returns', r)
  return r.state !== 'waiting'
}

/** Sends a unit found, and then its picture; false when the server was not reached. */
async function sendFound(row: Found): Promise<boolean> {
  const db = await shelf()
  const f = await db.get('founds', row.key)
  if (!f) return true
  try {
    if (f.state === 'waiting') {
      await ask(api.POST('/found-units', { params: { header: { 'Idempotency-Key': f.key } }, body: f.body }))
      f.state = f.photo ? 'photos' : 'sent'
      await db.put('founds', f)
    }
    if (f.photo)
      await ask(
        api.POST('/attachments', {
          params: { query: { entity: 'found', entity_id: f.key, kind: 'photo', name: 'as it was found' } },
          body: f.photo as unknown as string,
          ...asFile,
        }),
      ).catch((e: unknown) => {
        // Kept already, by a try whose answer was lost.
        if (problemOf(e).status !== 409) throw e
      })
    Object.assign(f, { state: 'sent', photo: null, problem: '' })
    reached.value = true
  } catch (e) {
    const p = problemOf(e)
    reached.value = p.status !== 0
    f.problem = p.status === 401 ? 'Sign in again to send it.' : p.message
    if (!isPassing(p.status)) f.state = 'refused'
  }
  await db.put('founds', f)
  return f.state === 'sent' || f.state === 'refused'
}

/** Whether a try failed for what passes: it is tried again. */
const isPassing = (status: number) => status === 0 || status >= 500 || status === 401 || status === 429

/** Sends one; false when the server was not reached. */
async function sendOne(row: Waiting): Promise<boolean> {
  const db = await shelf()
  const w = JSON.parse(JSON.stringify(row)) as Waiting
  try {
    if (w.state === 'waiting') {
      w.outcome = await post(w)
      w.state = w.photos.length ? 'photos' : 'sent'
      await db.put('outbox', w)
    }
    while (w.photos.length) {
      await sendPhoto(w, w.photos[0]!)
      await db.delete('photos', w.photos[0]!)
      w.photos.shift()
      await db.put('outbox', w)
    }
    w.state = 'sent'
    w.problem = ''
    reached.value = true
  } catch (e) {
    const p = problemOf(e)
    reached.value = p.status !== 0
    if (isPassing(p.status)) {
      w.problem = p.status === 401 ? 'Sign in again to send it.' : p.message
      await db.put('outbox', w)
      return false
    }
    w.state = 'refused'
    w.problem = p.message
    w.fields = p.fields
  }
  await db.put('outbox', w)
  return true
}

function post(w: Waiting): Promise<Schemas['VisitOutcome']> {
  const header = { 'Idempotency-Key': w.key }
  return ask(
    w.token
      ? api.POST('/guest/{token}/visit', { params: { header, path: { token: w.token } }, body: w.visit })
      : api.POST('/visits', { params: { header }, body: w.visit }),
  )
}

async function sendPhoto(w: Waiting, id: string): Promise<void> {
  const photo = await (await shelf()).get('photos', id)
  if (!photo) return
  try {
    if (w.token) {
      await ask(
        api.POST('/guest/{token}/photos', {
          params: { path: { token: w.token }, query: { entity: 'visit', entity_id: w.key } },
          body: photo.blob as unknown as string,
          ...asFile,
        }),
      )
      return
    }
    await ask(
      api.POST('/attachments', {
        params: {
          query: {
            entity: photo.watch_id ? 'watch' : 'visit',
            entity_id: photo.watch_id || w.key,
            kind: 'photo',
            name: photo.name,
            ...(photo.surface_id ? { surface_id: photo.surface_id } : {}),
            ...(photo.step ? { step: photo.step } : {}),
            ...(photo.phase ? { phase: photo.phase } : {}),
          },
        },
        body: photo.blob as unknown as string,
        ...asFile,
      }),
    )
  } catch (e) {
    // Kept already, by a try whose answer was lost.
    if (problemOf(e).status !== 409) throw e
  }
}

/** Has the outbox sent whenever the network may be back. */
export function keepFlushing(): void {
  const again = () => void flush()
  window.addEventListener('online', again)
  document.addEventListener('visibilitychange', () => {
    if (document.visibilityState === 'visible') again()
  })
  window.setInterval(() => {
    const left = waiting.value.some((w) => w.state === 'waiting' || w.state === 'photos')
    if (
      left ||
      [...returned.value, ...founds.value].some((r) => r.state === 'waiting' || r.state === 'photos')
    )
      again()
  }, 10_000)
  again()
}
