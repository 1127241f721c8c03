import { type DBSchema, type IDBPDatabase, openDB } from 'idb'

import type { Schemas } from '../api/client'

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

let open: Promise<IDBPDatabase<Shelf>> | null = null

/** What is kept on the device: packs to work from, visits and photos that wait. */
export function shelf(): Promise<IDBPDatabase<Shelf>> {
  open ??= openDB<Shelf>('next-round', 1, {
    upgrade(db) {
      db.createObjectStore('packs', { keyPath: 'unit_id' })
      db.createObjectStore('outbox', { keyPath: 'key' })
      db.createObjectStore('photos', { keyPath: 'id' }).createIndex('unit', 'unit_id')
    },
  })
  return open
}
