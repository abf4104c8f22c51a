import {
  bodyOf,
  colorRegionsOf,
  leftToHands,
  palettesFor,
  partOf,
  partsFor,
  slotsFor,
  type Manifests,
} from '../kit/library.ts'
import type { PaletteDef, PartDef, SliderDef } from '../kit/schema.ts'
import { drawArchetypes, drawValue, partsOf, type Drawn } from './archetypes.ts'
import { referenceTo } from './defaults.ts'
import { shapeSlidersOf } from '../kit/movements.ts'
import { clearPart, isHeld, setColors, setPart, setSliders } from './edits.ts'
import { partIn } from './instances.ts'
import { createRandom, scatterSeed, type Random } from './random.ts'
import type { Recipe } from './schema.ts'
import { sidesOf } from './symmetry.ts'

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
  return setColors(recipe, notHeld(recipe, drawColors({ ...palette, swatches }, createRandom(seed))))
}

/** The colors of regions that are not held. */
const notHeld = (recipe: Recipe, colors: Record<string, string>) =>
  Object.fromEntries(Object.entries(colors).filter(([region]) => !isHeld(recipe, 'colors', region)))

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

/** Whether a hand has set something in a slot: chance does not take that away. */
const holdsPlaced = (recipe: Recipe, slot: string) =>
  recipe.parts.some((p) => p.slot === slot && p.place?.at && 'triangle' in p.place.at)

/** How often shuffling leaves a slot empty that need not be filled, unless the slot says otherwise. */
const EMPTY_SHARE = 0.45

/**
 * Shuffles all that is not locked or held, around archetypes of the body where it has some, the sliders mildly, and the colors from one palette.
 *
 * @param strength how much becomes another, 0 to 1: each slot and each color changes so often, and each slider
 *   goes so far from where it is to where it is drawn
 */
export function shuffleAll(recipe: Recipe, kits: Manifests, seed: number, strength = 1): Recipe {
  const random = createRandom(seed)
  const body = bodyOf(kits, recipe.body)
  if (!body) return recipe
  /** Whether it is another's turn; asked only where some things may stay, so that all is drawn as it always was. */
  const turns = () => strength >= 1 || random.next() < strength
  const drawn = drawArchetypes(body, createRandom(scatterSeed(seed)))
  let next = recipe
  const slots = slotsFor(kits, recipe.body).filter(
    (slot) => !leftToHands(slot) && !holdsPlaced(recipe, slot.id) && !recipe.locks.includes(slot.id) && turns(),
  )
  const shuffled = new Set(slots.map(({ id }) => id))
  const kept: PartDef[] = recipe.parts
    .filter((p) => !shuffled.has(p.slot))
    .flatMap(({ part }) => partOf(kits, part)?.def ?? [])
  for (const slot of slots) {
    const required = Object.hasOwn(body.defaults, slot.id)
    const choices = partsFor(kits, recipe.body, slot.id).filter((p) => !kept.some((k) => areExclusive(k, p.def)))
    const told = partsOf(drawn, slot.id)
    if (told) {
      // those of the body's own kit that nothing rules out; one that is told more often is drawn more often
      const likely = told.flatMap((id) =>
        id === null ? [null] : choices.filter((c) => c.kit === recipe.body.kit && c.def.id === id),
      )
      const one = likely.length ? random.pick(likely) : null
      if (one || !required) {
        if (one) kept.push(one.def)
        next = one
          ? setPart(next, slot.id, referenceTo(kits, { kit: one.kit, id: one.def.id }))
          : clearPart(next, slot.id)
        continue
      }
    }
    const usual = choices.filter((p) => !p.def.tags.includes('rare') || random.next() < 0.15)
    if (usual.length === 0 || (!required && random.next() < (slot.empty ?? EMPTY_SHARE))) {
      next = clearPart(next, slot.id)
      continue
    }
    const { kit, def } = random.pick(usual)
    kept.push(def)
    next = setPart(next, slot.id, referenceTo(kits, { kit, id: def.id }))
  }
  next = drawShape(next, shapeSlidersOf(body), random, strength, drawn, (s) => !isHeld(recipe, 'groups', s.group))
  const likely = drawn.flatMap(({ archetype }) => archetype.palettes ?? [])
  const all = palettesFor(kits, recipe.body)
  const palettes = likely.length ? all.filter((p) => likely.includes(p.id)) : all
  if (palettes.length === 0) return next
  const palette = random.pick(palettes)
  const own = Object.assign({}, ...drawn.map(({ archetype }) => archetype.swatches ?? {})) as PaletteDef['swatches']
  const colors = Object.entries(drawColors({ ...palette, swatches: { ...palette.swatches, ...own } }, random))
  return setColors(next, notHeld(recipe, Object.fromEntries(colors.filter(turns))))
}

/** Shuffles the sliders of one group alone; strength as in `shuffleAll`. */
export function shuffleShape(recipe: Recipe, kits: Manifests, group: string, seed: number, strength = 1): Recipe {
  const body = bodyOf(kits, recipe.body)
  if (!body) return recipe
  const sliders = shapeSlidersOf(body).filter((s) => s.group === group)
  return drawShape(recipe, sliders, createRandom(seed), strength, drawArchetypes(body, createRandom(scatterSeed(seed))))
}

/** Moves sliders towards where they are drawn; what differs between the sides goes on differing, less so. */
function drawShape(
  recipe: Recipe,
  sliders: readonly SliderDef[],
  random: Random,
  strength: number,
  drawn: Drawn,
  free: (slider: SliderDef) => boolean = () => true,
): Recipe {
  const values = sliders.map((slider): [string, [number, number]] => {
    // without archetypes two draws added: extremes stay rare
    const v = drawn.length
      ? drawValue(slider, drawn, random)
      : ((random.between(slider.min, slider.max) + random.between(slider.min, slider.max)) / 2) * 0.8
    const [left, right] = sidesOf(recipe, slider)
    const towards = (from: number) => from + (v - from) * Math.min(1, strength)
    return [slider.id, [towards(left), towards(right)]]
  })
  // what is held is drawn too, so that the rest comes out as it would without
  return setSliders(recipe, Object.fromEntries(values), sliders.filter(free))
}
