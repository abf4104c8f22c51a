import { bodyOf, colorRegionsOf, palettesFor, partOf, partsFor, slotsFor, type Manifests } from '../kit/library.ts'
import type { PaletteDef, PartDef } from '../kit/schema.ts'
import { referenceTo } from './defaults.ts'
import { clearPart, setColors, setPart, setSlider } from './edits.ts'
import { partIn } from './instances.ts'
import { createRandom, type Random } from './random.ts'
import type { Recipe } from './schema.ts'

/** Whether two parts rule each other out, by id or by tag. */
export function areExclusive(a: PartDef, b: PartDef): boolean {
  const names = (p: PartDef) => [p.id, ...p.tags]
  return (a.excludes ?? []).some((x) => names(b).includes(x)) || (b.excludes ?? []).some((x) => names(a).includes(x))
}

/** One color for every region a palette speaks of. */
export function drawColors(palette: PaletteDef, random: Random): Record<string, string> {
  const colors: Record<string, string> = {}
  for (const region of Object.keys(palette.swatches).sort()) colors[region] = random.pick(palette.swatches[region]!)
  return colors
}

/** Colors what is worn from a palette; what is the person's own stays. */
export function dressInPalette(recipe: Recipe, kits: Manifests, palette: PaletteDef, seed: number): Recipe {
  const regions = colorRegionsOf(kits, recipe.body.kit)
  const swatches = Object.fromEntries(Object.entries(palette.swatches).filter(([region]) => !regions.get(region)?.own))
  return setColors(recipe, drawColors({ ...palette, swatches }, createRandom(seed)))
}

/** Puts another part into one slot, never the same again where there is a choice. */
export function shuffleSlot(recipe: Recipe, kits: Manifests, slot: string, seed: number): Recipe {
  const random = createRandom(seed)
  const now = partIn(recipe, slot)
  const others = recipe.parts.filter((p) => p.slot !== slot).flatMap(({ part }) => partOf(kits, part)?.def ?? [])
  const choices = partsFor(kits, recipe.body, slot).filter(
    ({ kit, def }) => !(kit === now?.kit && def.id === now.id) && !others.some((o) => areExclusive(o, def)),
  )
  if (choices.length === 0) return recipe
  const { kit, def } = random.pick(choices)
  return setPart(recipe, slot, referenceTo(kits, { kit, id: def.id }))
}

/** How often shuffling leaves a slot empty that need not be filled, unless the slot says otherwise. */
const EMPTY_SHARE = 0.45

/** Shuffles every slot that is not locked, the sliders mildly, and the colors from one palette. */
export function shuffleAll(recipe: Recipe, kits: Manifests, seed: number): Recipe {
  const random = createRandom(seed)
  const body = bodyOf(kits, recipe.body)
  if (!body) return recipe
  let next = recipe
  const kept: PartDef[] = recipe.parts
    .filter((p) => recipe.locks.includes(p.slot))
    .flatMap(({ part }) => partOf(kits, part)?.def ?? [])
  for (const slot of slotsFor(kits, recipe.body)) {
    if (recipe.locks.includes(slot.id)) continue
    const required = Object.hasOwn(body.defaults, slot.id)
    const choices = partsFor(kits, recipe.body, slot.id).filter((p) => !kept.some((k) => areExclusive(k, p.def)))
    const usual = choices.filter((p) => !p.def.tags.includes('rare') || random.next() < 0.15)
    if (usual.length === 0 || (!required && random.next() < (slot.empty ?? EMPTY_SHARE))) {
      next = clearPart(next, slot.id)
      continue
    }
    const { kit, def } = random.pick(usual)
    kept.push(def)
    next = setPart(next, slot.id, referenceTo(kits, { kit, id: def.id }))
  }
  for (const slider of body.sliders) {
    // two draws added: extremes stay rare
    const v = (random.between(slider.min, slider.max) + random.between(slider.min, slider.max)) / 2
    next = setSlider(next, slider.id, v * 0.8, slider)
  }
  const palettes = palettesFor(kits, recipe.body)
  if (palettes.length) next = setColors(next, drawColors(random.pick(palettes), random))
  return next
}
