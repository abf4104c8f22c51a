import {
  newRecipe,
  refOf,
  referenceTo,
  setPart,
  partOf,
  type Manifests,
  type PickBody,
  type Recipe,
} from '@idle-tinker/core'

/** What is worn of picks, by the options' full names, as a figure with the colors and sliders that a player begins with. */
export function pickedRecipe(kits: Manifests, body: PickBody, worn: readonly string[], name: string): Recipe {
  const kit = kits.get(body.body.kit)
  if (!kit) throw new RangeError(`The kit “${body.body.kit}” is not here.`)
  let recipe = newRecipe(kit, body.body.id, name.slice(0, 80))
  for (const option of worn) {
    const ref = refOf(option, body.body.kit)
    const part = partOf(kits, ref)
    if (part) recipe = setPart(recipe, part.def.slot, referenceTo(kits, ref))
  }
  return {
    ...recipe,
    sliders: Object.fromEntries(body.sliders.map(({ slider, start }) => [slider, start])),
    colors: Object.fromEntries(Object.entries(body.colors).map(([region, { start }]) => [region, start])),
  }
}
