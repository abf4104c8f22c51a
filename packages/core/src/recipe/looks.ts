import { bodyOf, partOf, refOf, slotsFor, holdsSeveral, type Manifests } from '../kit/library.ts'
import type { LookDef } from '../kit/schema.ts'
import { newRecipe, referenceTo } from './defaults.ts'
import { addPart, setPart } from './edits.ts'
import { setExpression } from './expressions.ts'
import type { Recipe } from './schema.ts'

/** A figure of a kit's first body as it comes: its first look, or bare where the kit has none of that body. */
export function firstFigure(kits: Manifests, kit: string, name: string): Recipe {
  const { manifest } = kits.get(kit)!
  const body = manifest.bodies[0]!.id
  const look = manifest.looks?.find((l) => l.body === body)
  return look ? { ...recipeOfLook(kits, kit, look), name } : newRecipe({ manifest }, body, name)
}

/**
 * The recipe of a look that a kit brings; what of it is not there is left out.
 *
 * @param kit the one that brings it
 * @throws RangeError if the body is not there
 */
export function recipeOfLook(kits: Manifests, kit: string, look: LookDef): Recipe {
  const ref = refOf(look.body, kit)
  const body = bodyOf(kits, ref)
  if (!body) throw new RangeError(`no body ${look.body}`)
  let recipe: Recipe = {
    ...newRecipe(kits.get(ref.kit)!, ref.id, look.name),
    sliders: { ...look.sliders },
    colors: { ...look.colors },
  }
  const slots = slotsFor(kits, ref)
  for (const name of look.parts) {
    const part = partOf(kits, refOf(name, kit))
    const slot = slots.find((s) => s.id === part?.def.slot)
    if (!part || !slot) continue
    const reference = referenceTo(kits, { kit: part.kit, id: part.def.id })
    recipe = (holdsSeveral(slot) ? addPart : setPart)(recipe, slot.id, reference)
  }
  const [face, strength] = look.face ?? []
  return face !== undefined && body.expressions?.some((e) => e.id === face)
    ? setExpression(recipe, body, face, strength)
    : recipe
}
