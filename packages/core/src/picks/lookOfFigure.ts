import { bodyOf, colorRegionsOf, fullName, partOf, type Manifests } from '../kit/library.ts'
import type { Recipe } from '../recipe/schema.ts'
import { pickName } from './newPicks.ts'
import type { PickBody, PickLook } from './picks.ts'

/** A figure as a player could make it, and the names of what it has that is not offered so. */
export interface FigureLook {
  look: Required<Omit<PickLook, 'id' | 'expression'>>
  left: string[]
}

/**
 * A figure of the project as a look of a body's picks: its parts where they are offered, sliders within their limits, colors
 * where there are such swatches. null where it is of another body.
 */
export function lookOfFigure(pick: PickBody, recipe: Recipe, kits: Manifests): FigureLook | null {
  const def = bodyOf(kits, pick.body)
  if (!def || fullName(recipe.body) !== fullName(pick.body)) return null
  const left: string[] = []
  const parts: [string, string | null][] = pick.slots.map(({ slot, parts: offered, start, needed }) => {
    const has = (name: string | undefined) => offered.some((o) => o.part === name)
    const worn = recipe.parts.filter((p) => p.slot === slot).map((p) => pickName(pick.body, p.part))
    // what it always has on is not written down
    const name = worn.find(has) ?? (worn.length === 0 && has(def.defaults[slot]) ? def.defaults[slot]! : null)
    return [slot, name ?? (needed ? start : null)]
  })
  const chosen = new Map(parts)
  for (const { slot, part, place, layer, clearance } of recipe.parts) {
    const name = partOf(kits, part)?.def.name ?? part.id
    if (chosen.get(slot) !== pickName(pick.body, part)) left.push(name)
    // players wear things as kits have them
    else if ([place, layer, clearance].some((own) => own !== undefined)) left.push(`${name} as it was put there`)
  }
  if (recipe.nudges?.length) left.push('what was nudged')
  const sliders = Object.fromEntries(
    pick.sliders.map(({ slider, min, max, start }) => {
      const value = recipe.sliders[slider] ?? def.sliders.find((s) => s.id === slider)?.default ?? start
      // players have one for both sides
      const one = Array.isArray(value) ? (value[0] + value[1]) / 2 : value
      return [slider, Math.min(max, Math.max(min, one))]
    }),
  )
  for (const [id, value] of Object.entries(recipe.sliders))
    if (sliders[id] !== value) left.push(def.sliders.find((s) => s.id === id)?.name ?? id)
  const regions = colorRegionsOf(kits, pick.body.kit)
  const wanted = (region: string) => recipe.colors[region] ?? regions.get(region)?.color
  const colors = Object.fromEntries(
    Object.entries(pick.colors).map(([region, { swatches, start }]) => {
      const own = wanted(region)
      return [region, swatches.find((s) => s === own) ?? start]
    }),
  )
  for (const [region, color] of Object.entries(recipe.colors))
    if (colors[region] !== color) left.push(`${regions.get(region)?.name ?? region} ${color}`)
  return {
    look: { name: recipe.name.slice(0, 80), parts: Object.fromEntries(parts), sliders, colors },
    left: [...new Set(left)],
  }
}
