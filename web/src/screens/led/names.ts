import type { Schemas } from '../../api/client'
import { roleWords, upperFirst } from '../../words'

/** A side of a coil as the screen calls it. */
export const sideNames = (pack: Schemas['VisitPack']) =>
  pack.unit.coils.flatMap((c) => c.sides.map((s) => ({ id: s.id, name: `${roleWords[c.role]}, ${s.name}` })))

/** A coil as the screen calls it. */
export function coilName(pack: Schemas['VisitPack'] | null, coil: string): string {
  const role = pack?.unit.coils.find((u) => u.id === coil)?.role
  return role ? upperFirst(roleWords[role]) : ''
}
