import { bodyOf, planOf, type KitPart, type Manifests } from '../kit/library.ts'
import { limbIdOn } from '../recipe/resolve.ts'
import { choicesOf } from './choicesOf.ts'
import type { PickBody } from './picks.ts'

/** What each of some parts, by its full name, is called while all are worn at once: its id, where no other kit has the same. */
export function instanceNames(parts: ReadonlyMap<string, KitPart>): Map<string, string> {
  const ids = [...parts.values()].map((p) => p.def.id)
  const alone = (id: string) => ids.filter((other) => other === id).length === 1
  return new Map([...parts].map(([name, { kit, def }]) => [name, alone(def.id) ? def.id : `${kit}-${def.id}`]))
}

/** A limb of a body of picks, by the id its springs name it by. */
export interface OfferedLimb {
  id: string
  kind: string
  /** The part that brings it, and what it is called there; null for one of the body. */
  of: { part: KitPart; limb: string } | null
}

/** The limbs of a body of picks: those of its plan, its own, those that parts bring. */
export function limbsOffered(pick: PickBody, kits: Manifests): OfferedLimb[] {
  const def = bodyOf(kits, pick.body)
  if (!def) return []
  const { parts } = choicesOf(pick, kits).choices
  const names = instanceNames(parts)
  const plan = planOf(kits.get(pick.body.kit)!.manifest, def.plan)
  return [
    ...[...(plan?.limbs ?? []), ...(def.limbs ?? [])].map(({ id, kind }) => ({ id, kind, of: null })),
    ...[...parts].flatMap(([name, part]) =>
      (part.def.limbs ?? []).map(({ id, kind }) => ({
        id: limbIdOn(names.get(name)!, id),
        kind,
        of: { part, limb: id },
      })),
    ),
  ]
}
