import { type DBSchema, deleteDB, type IDBPDatabase, openDB } from 'idb'

import type { Schemas } from '../api/client'
import { begun, owner, ownKey } from './owner'

/** A photo on its way to a record. */
export interface KeptPhoto {
  id: string
  unit_id: string
  name: string
  step: string
  phase: 'before' | 'after' | ''
  surface_id: string
  watch_id: string
  blob: Blob
}

/** A visit that waits to be sent. */
export interface Waiting {
  key: string
  tag: string
  visit: Schemas['NewVisit']
  photos: string[]
  at: string
  /** Token of a contractor's link; empty for people who sign in. */
  token: string
  /** Who wrote it: another person signed in on the same phone does not send it. */
  person_id: string
  state: 'waiting' | 'photos' | 'refused' | 'sent'
  problem: string
  /** The draft it was made of, so that what is refused can be put right. */
  work: string
  fields: Schemas['FieldError'][]
  outcome?: Schemas['VisitOutcome']
}

/** A job that its crew gives back, on its way to the office. */
export interface Returned {
  key: string
  round_id: string
  unit_id: string
  tag: string
  body: Schemas['NewJobReturn']
  at: string
  state: 'waiting' | 'refused' | 'sent'
  problem: string
}

/** A unit met on site that is not in the register, on its way to whoever decides. */
export interface Found {
  key: string
  site: string
  body: Schemas['NewFoundUnit']
  photo: Blob | null
  at: string
  state: 'waiting' | 'photos' | 'refused' | 'sent'
  problem: string
}

interface Shelf extends DBSchema {
  packs: { key: string; value: { unit_id: string; at: string; pack: Schemas['VisitPack'] } }
  outbox: { key: string; value: Waiting }
  photos: { key: string; value: KeptPhoto; indexes: { unit: string } }
  /** The crew's day as it was last read; pictures of what is watched, small, by their file. */
  days: { key: string; value: { crew: string; at: string; day: Schemas['Today'] } }
  pictures: { key: string; value: { id: string; blob: Blob } }
  returns: { key: string; value: Returned }
  founds: { key: string; value: Found }
}

const opened = new Map<string, Promise<IDBPDatabase<Shelf>>>()
const nameOf = (who: string) => `next-round-${who}`

/** What is kept on the device for who works on it: packs to work from, visits and photos that wait. */
export function shelf(who = owner()): Promise<IDBPDatabase<Shelf>> {
  if (!who) return Promise.reject(new Error('nobody is signed in'))
  let db = opened.get(who)
  if (!db) {
    db = openDB<Shelf>(nameOf(who), 2, {
      upgrade(db, from) {
        if (from < 1) {
          db.createObjectStore('packs', { keyPath: 'unit_id' })
          db.createObjectStore('outbox', { keyPath: 'key' })
          db.createObjectStore('photos', { keyPath: 'id' }).createIndex('unit', 'unit_id')
        }
        if (from < 2) {
          db.createObjectStore('days', { keyPath: 'crew' })
          db.createObjectStore('pictures', { keyPath: 'id' })
          db.createObjectStore('returns', { keyPath: 'key' })
          db.createObjectStore('founds', { keyPath: 'key' })
        }
      },
    })
    opened.set(who, db)
  }
  return db
}

/** What somebody would lose by having everything of theirs removed from this device. */
export async function unsent(who = owner()): Promise<{ visits: number; begun: number }> {
  if (!who) return { visits: 0, begun: 0 }
  const db = await shelf(who)
  const rows = [
    ...(await db.getAll('outbox')),
    ...(await db.getAll('returns')),
    ...(await db.getAll('founds')),
  ]
  return { visits: rows.filter((w) => w.state !== 'sent').length, begun: begun(who).length }
}

/** Removes everything of somebody's from this device. */
export async function wipe(who: string): Promise<void> {
  for (const unit of begun(who)) {
    localStorage.removeItem(ownKey('work', unit, who))
    localStorage.removeItem(ownKey('draft', unit, who))
  }
  for (const kind of ['clocks', 'load'])
    for (const key of Object.keys(localStorage))
      if (key.startsWith(`${kind}:${who}:`)) localStorage.removeItem(key)
  const db = await opened.get(who)
  db?.close()
  opened.delete(who)
  await deleteDB(nameOf(who))
}
