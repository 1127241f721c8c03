import type { Schemas } from '../../api/client'
import { owner, ownKey } from '../../offline/owner'
import { shelf } from '../../offline/shelf'
import type { Work } from './ledVisit'

/** Moves a visit that was begun, with its photos and what it needs, to what is kept on this phone for somebody else. */
export async function handOverTo(person: string, w: Work, pack: Schemas['VisitPack']): Promise<void> {
  const [mine, theirs] = [await shelf(owner()), await shelf(person)]
  for (const p of w.photos) {
    const kept = await mine.get('photos', p.id)
    if (kept) await theirs.put('photos', kept)
  }
  const plain = JSON.parse(JSON.stringify(pack)) as Schemas['VisitPack']
  await theirs.put('packs', { unit_id: pack.unit.id, at: new Date().toISOString(), pack: plain })
  const people = w.people.some((p) => p.person_id === person)
    ? w.people
    : [...w.people, { person_id: person, minutes: null }]
  localStorage.setItem(ownKey('work', w.unit_id, person), JSON.stringify({ ...w, people }))
  for (const p of w.photos) await mine.delete('photos', p.id)
}
