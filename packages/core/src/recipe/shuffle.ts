import type { Kit } from '../kit/readKit.ts'
import type { KitManifest, PaletteDef, PartDef } from '../kit/schema.ts'
import { clearPart, setColors, setPart, setSlider } from './edits.ts'
import { createRandom, type Random } from './random.ts'
import type { Recipe, Reference } from './schema.ts'

/** The parts that may stand in a slot of a body, in the kit's order. */
export function partsFor(manifest: KitManifest, body: string, slot: string): PartDef[] {
  return manifest.parts.filter((p) => p.slot === slot && p.bodies.includes(body))
}

/** Whether two parts rule each other out, by id or by tag. */
export function areExclusive(a: PartDef, b: PartDef): boolean {
  const names = (p: PartDef) => [p.id, ...p.tags]
  return (a.excludes ?? []).some((x) => names(b).includes(x)) || (b.excludes ?? []).some((x) => names(a).includes(x))
}

export function partReference(kit: Pick<Kit, 'manifest'>, id: string): Reference {
  return { kit: kit.manifest.id, kitVersion: kit.manifest.kitVersion, id }
}

/** One color for every region a palette speaks of. */
export function drawColors(palette: PaletteDef, random: Random): Record<string, string> {
  const colors: Record<string, string> = {}
  for (const region of Object.keys(palette.swatches).sort()) colors[region] = random.pick(palette.swatches[region]!)
  return colors
}

/** Colors what is worn from a palette; what is the person's own stays. */
export function dressInPalette(recipe: Recipe, manifest: KitManifest, palette: PaletteDef, seed: number): Recipe {
  const own = new Set(manifest.colorRegions.filter((c) => c.own).map((c) => c.id))
  const swatches = Object.fromEntries(Object.entries(palette.swatches).filter(([region]) => !own.has(region)))
  return setColors(recipe, drawColors({ ...palette, swatches }, createRandom(seed)))
}

/** Puts another part into one slot, never the same again where there is a choice. */
export function shuffleSlot(recipe: Recipe, manifest: KitManifest, slot: string, seed: number): Recipe {
  const random = createRandom(seed)
  const now = recipe.parts[slot]?.id
  const others = Object.entries(recipe.parts)
    .filter(([s]) => s !== slot)
    .flatMap(([, ref]) => manifest.parts.find((p) => p.id === ref.id) ?? [])
  const choices = partsFor(manifest, recipe.body.id, slot).filter(
    (p) => p.id !== now && !others.some((o) => areExclusive(o, p)),
  )
  return choices.length ? setPart(recipe, slot, partReference({ manifest }, random.pick(choices).id)) : recipe
}

/** How often shuffling leaves a slot empty that need not be filled, unless the slot says otherwise. */
const EMPTY_SHARE = 0.45

/** Shuffles every slot that is not locked, the sliders mildly, and the colors from one palette. */
export function shuffleAll(recipe: Recipe, manifest: KitManifest, seed: number): Recipe {
  const random = createRandom(seed)
  const body = manifest.bodies.find((b) => b.id === recipe.body.id)
  if (!body) return recipe
  let next = recipe
  const kept: PartDef[] = recipe.locks.flatMap(
    (slot) => manifest.parts.find((p) => p.id === recipe.parts[slot]?.id) ?? [],
  )
  for (const slot of manifest.slots) {
    if (recipe.locks.includes(slot.id) || !slot.bodies.includes(recipe.body.id)) continue
    const required = slot.id in body.defaults
    const choices = partsFor(manifest, recipe.body.id, slot.id).filter((p) => !kept.some((k) => areExclusive(k, p)))
    const usual = choices.filter((p) => !p.tags.includes('rare') || random.next() < 0.15)
    if (usual.length === 0 || (!required && random.next() < (slot.empty ?? EMPTY_SHARE))) {
      next = clearPart(next, slot.id)
      continue
    }
    const part = random.pick(usual)
    kept.push(part)
    next = setPart(next, slot.id, partReference({ manifest }, part.id))
  }
  for (const slider of body.sliders) {
    // two draws added: extremes stay rare
    const v = (random.between(slider.min, slider.max) + random.between(slider.min, slider.max)) / 2
    next = setSlider(next, slider.id, v * 0.8, slider)
  }
  if (manifest.palettes.length) next = setColors(next, drawColors(random.pick(manifest.palettes), random))
  return next
}
