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

interface Shelf extends DBSchema {
  packs: { key: string; value: { unit_id: string; at: string; pack: Schemas['VisitPack'] } }
  outbox: { key: string; value: Waiting }
  photos: { key: string; value: KeptPhoto; indexes: { unit: string } }
}

const opened = new Map<string, Promise<IDBPDatabase<Shelf>>>()
const nameOf = (who: string) => `next-round-${who}`

/** What is kept on the device for who works on it: packs to work from, visits and photos that wait. */
export function shelf(who = owner()): Promise<IDBPDatabase<Shelf>> {
  if (!who) return Promise.reject(new Error('nobody is signed in'))
  let db = opened.get(who)
  if (!db) {
    db = openDB<Shelf>(nameOf(who), 1, {
      upgrade(db) {
        db.createObjectStore('packs', { keyPath: 'unit_id' })
        db.createObjectStore('outbox', { keyPath: 'key' })
        db.createObjectStore('photos', { keyPath: 'id' }).createIndex('unit', 'unit_id')
      },
    })
    opened.set(who, db)
  }
  return db
}

/** What somebody would lose by having everything of theirs removed from this device. */
export async function unsent(who = owner()): Promise<{ visits: number; begun: number }> {
  if (!who) return { visits: 0, begun: 0 }
  const rows = await (await shelf(who)).getAll('outbox')
  return { visits: rows.filter((w) => w.state !== 'sent').length, begun: begun(who).length }
}

/** Removes everything of somebody's from this device. */
export async function wipe(who: string): Promise<void> {
  for (const unit of begun(who)) {
    localStorage.removeItem(ownKey('work', unit, who))
    localStorage.removeItem(ownKey('draft', unit, who))
  }
  const db = await opened.get(who)
  db?.close()
  opened.delete(who)
  await deleteDB(nameOf(who))
}
