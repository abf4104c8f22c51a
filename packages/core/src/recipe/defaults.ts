import type { Manifests } from '../kit/library.ts'
import { bodyOf } from '../kit/library.ts'
import type { KitManifest } from '../kit/schema.ts'
import { RECIPE_FORMAT, type Recipe, type Reference } from './schema.ts'

/** Names a body or part of a kit as recipes do. */
export function partReference(kit: { manifest: KitManifest }, id: string): Reference {
  return { kit: kit.manifest.id, kitVersion: kit.manifest.kitVersion, id }
}

/** The same among several kits; throws if the kit is not there. */
export function referenceTo(kits: Manifests, { kit, id }: { kit: string; id: string }): Reference {
  const found = kits.get(kit)
  if (!found) throw new RangeError(`no kit ${kit}`)
  return partReference(found, id)
}

/** A new figure on a body: its required parts, every slider at rest. Throws if the kit lacks the body. */
export function newRecipe(kit: { manifest: KitManifest }, body: string, name: string): Recipe {
  const def = bodyOf(new Map([[kit.manifest.id, kit]]), { kit: kit.manifest.id, id: body })
  if (!def) throw new RangeError(`no body ${body} in ${kit.manifest.id}`)
  return {
    format: RECIPE_FORMAT,
    version: 2,
    name,
    body: partReference(kit, body),
    parts: Object.entries(def.defaults).map(([slot, id]) => ({ id: slot, slot, part: partReference(kit, id) })),
    sliders: {},
    colors: {},
    locks: [],
  }
}
