import { api, ask, ApiProblem, problemOf, type Schemas } from '../api/client'
import { loadCore } from '../core'
import { refusal } from './device'
import { keepPack, reachesNothing } from './packs'
import { shelf } from './shelf'

/** A crew's day: fresh from the server, else as it was last kept on this phone. */
export interface KeptDay {
  day: Schemas['Today']
  at: string
  fresh: boolean
  unkept: string
}

export async function todayOf(crew: string): Promise<KeptDay> {
  try {
    const day = await ask(api.GET('/today', { params: { query: crew ? { crew } : {} } }))
    const at = new Date().toISOString()
    try {
      await (await shelf()).put('days', { crew, at, day })
      return { day, at, fresh: true, unkept: '' }
    } catch (e) {
      return { day, at, fresh: true, unkept: refusal(e) }
    }
  } catch (e) {
    if (!reachesNothing(e)) throw e
    const kept = await (await shelf()).get('days', crew)
    if (kept) return { day: kept.day, at: kept.at, fresh: false, unkept: '' }
    throw new ApiProblem(
      0,
      'There is no network, and no day was kept on this phone. Open it once where there is network.',
      [],
    )
  }
}

/** The units of a round in their order, each once. */
export const unitsOf = (r: Schemas['Round']): string[] => [
  ...new Set(r.stops.flatMap((s) => s.jobs.map((j) => j.unit_id))),
]

/** The packs that are kept of some units. */
export async function keptPacks(units: string[]): Promise<Record<string, Schemas['VisitPack']>> {
  const db = await shelf()
  const rows = await Promise.all(units.map((u) => db.get('packs', u)))
  return Object.fromEntries(rows.flatMap((r) => (r ? [[r.unit_id, r.pack]] : [])))
}

/** How many packs are asked for at the same time. */
const atOnce = 3

/**
 * Keeps all that the visits of a round need: the packs of its units, small pictures of what is watched on them, and the
 * core that judges. Says how many units are kept each time one more is.
 */
export async function keepDay(round: Schemas['Round'], told: (kept: number) => void): Promise<void> {
  const units = unitsOf(round)
  let next = 0
  let done = 0
  const take = async (): Promise<void> => {
    while (next < units.length) {
      const unit = units[next++]!
      const pack = await ask(api.GET('/units/{unit_id}/visit-pack', { params: { path: { unit_id: unit } } }))
      await keepPack(pack, '')
      await keepPictures(pack)
      told(++done)
    }
  }
  await Promise.all([loadCore(), ...Array.from({ length: atOnce }, take)])
}

/** The longest side of a picture that is kept to be looked at beside the thing itself. */
const longest = 640

async function keepPictures(pack: Schemas['VisitPack']): Promise<void> {
  const db = await shelf()
  for (const p of pack.watch.flatMap((w) => w.photos)) {
    if (await db.getKey('pictures', p.id)) continue
    try {
      const answer = await fetch(`/api/v1/attachments/${p.id}`)
      if (answer.ok) await db.put('pictures', { id: p.id, blob: await smaller(await answer.blob(), longest) })
    } catch (e) {
      // A picture that cannot be kept is no reason to lose the day; without network it is said to be missing.
      if (problemOf(e).status !== 0) continue
    }
  }
}

/** A picture drawn smaller, as JPEG. */
export async function smaller(file: Blob, most: number): Promise<Blob> {
  const picture = await createImageBitmap(file)
  const scale = Math.min(1, most / Math.max(picture.width, picture.height))
  const canvas = document.createElement('canvas')
  canvas.width = Math.max(1, Math.round(picture.width * scale))
  canvas.height = Math.max(1, Math.round(picture.height * scale))
  canvas.getContext('2d')!.drawImage(picture, 0, 0, canvas.width, canvas.height)
  picture.close()
  return new Promise((ok, bad) =>
    canvas.toBlob((b) => (b ? ok(b) : bad(new Error('The picture cannot be read.'))), 'image/jpeg', 0.85),
  )
}
