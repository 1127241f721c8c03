import { api, ask, ApiProblem, problemOf, type Schemas } from '../api/client'
import { refusal } from './device'
import { shelf } from './shelf'

export interface Pack {
  pack: Schemas['VisitPack']
  /** When it was read; old ones are said to be so. */
  at: string
  fresh: boolean
  /** Why it could not be kept on this phone; without network it will not open. */
  unkept: string
}

/** All that a visit needs: fresh from the server, else as it was last kept on this phone. */
export async function packFor(unit: string, token = ''): Promise<Pack> {
  try {
    const pack = await ask(
      token
        ? api.GET('/guest/{token}/visit', {
            params: { path: { token }, query: unit ? { unit_id: unit } : {} },
          })
        : api.GET('/units/{unit_id}/visit-pack', { params: { path: { unit_id: unit } } }),
    )
    try {
      return await keepPack(pack, token)
    } catch (e) {
      return { pack, at: new Date().toISOString(), fresh: true, unkept: refusal(e) }
    }
  } catch (e) {
    const kept = await (await shelf()).get('packs', placeOf(token, unit))
    if (kept && reachesNothing(e)) return { pack: kept.pack, at: kept.at, fresh: false, unkept: '' }
    if (reachesNothing(e))
      throw new ApiProblem(
        0,
        'There is no network, and this unit was not kept on the phone. Keep the round on the phone before the network is gone.',
        [],
      )
    throw e
  }
}

/** Under what a pack is kept: those of a link are the link's. */
const placeOf = (token: string, unit: string) => (token ? `${token}:${unit}` : unit)

export const reachesNothing = (e: unknown) => {
  const status = problemOf(e).status
  return status === 0 || status >= 502
}

export async function keepPack(pack: Schemas['VisitPack'], token: string): Promise<Pack> {
  const at = new Date().toISOString()
  await (await shelf()).put('packs', { unit_id: placeOf(token, pack.unit.id), at, pack })
  return { pack, at, fresh: true, unkept: '' }
}

/** Keeps the packs of some units; gives how many could be read. */
export async function keepPacks(units: string[], told: (done: number) => void): Promise<number> {
  let done = 0
  for (const unit of units) {
    const pack = await ask(api.GET('/units/{unit_id}/visit-pack', { params: { path: { unit_id: unit } } }))
    await keepPack(pack, '')
    told(++done)
  }
  return done
}

/** A unit that can be worked on without network. */
export interface KeptUnit {
  unit_id: string
  tag: string
  where: string
  at: string
  /** What its label says, in lower case. */
  label: string
}

/** The units whose packs are kept, by tag. */
export async function keptUnits(): Promise<KeptUnit[]> {
  const rows = await (await shelf()).getAll('packs')
  return rows
    .filter((r) => r.unit_id === r.pack.unit.id)
    .map((r) => ({
      unit_id: r.unit_id,
      tag: r.pack.unit.tag,
      where: `${r.pack.unit.site}, ${r.pack.unit.placement}`,
      at: r.at,
      label: r.pack.label_code?.toLowerCase() ?? '',
    }))
    .sort((a, b) => a.tag.localeCompare(b.tag))
}
