import { bodyOf, partsFor, slotsFor, type Manifests } from '../kit/library.ts'
import type { SliderDef } from '../kit/schema.ts'
import { movementsOf, shapeSlidersOf } from '../kit/movements.ts'
import { isHeld, setColors, setSliders } from './edits.ts'
import { withoutNudgesOf } from './nudges.ts'
import type { Place, Recipe } from './schema.ts'
import { sidesOf } from './symmetry.ts'

/**
 * A figure on the way from one to another: its shape and colors go over evenly, and slot after slot
 * what is worn changes, the last one at the end. What is locked stays; parts that do not fit this body stay away.
 *
 * @param share 0: as it is, 1: as the other is
 */
export function blend(recipe: Recipe, other: Recipe, kits: Manifests, share: number): Recipe {
  const t = Math.min(1, Math.max(0, share))
  if (t === 0) return recipe
  const slots = slotsFor(kits, recipe.body).map((s) => s.id)
  const changed = new Set(slots.filter((_, i) => t >= (i + 1) / slots.length))
  const shaped = takeSliders(recipe, other, kits, (s) => !isHeld(recipe, 'groups', s.group), t)
  return mixColors(takeParts(shaped, other, kits, changed), other, t)
}

/** The other's shape on this body, of the sliders both have; of one group alone if it is named. The face's movements stay. */
export function takeShape(recipe: Recipe, other: Recipe, kits: Manifests, group?: string): Recipe {
  const body = bodyOf(kits, recipe.body)
  const shape = new Set(body ? shapeSlidersOf(body) : [])
  return takeSliders(recipe, other, kits, (s) =>
    group === undefined ? shape.has(s) && !isHeld(recipe, 'groups', s.group) : s.group === group,
  )
}

/** The other's expression. */
export function takeFace(recipe: Recipe, other: Recipe, kits: Manifests): Recipe {
  const body = bodyOf(kits, recipe.body)
  const face = new Set(body ? movementsOf(body) : [])
  return takeSliders(recipe, other, kits, (s) => face.has(s))
}

function takeSliders(
  recipe: Recipe,
  other: Recipe,
  kits: Manifests,
  taken: (slider: SliderDef) => boolean,
  share = 1,
): Recipe {
  const [own, theirs] = [bodyOf(kits, recipe.body)?.sliders ?? [], bodyOf(kits, other.body)?.sliders ?? []]
  const known = new Map(theirs.map((s) => [s.id, s]))
  const towards = (from: number, to: number) => (share === 1 ? to : from + (to - from) * share)
  const values = own.flatMap((slider: SliderDef): [string, [number, number]][] => {
    const same = known.get(slider.id)
    if (!same || !taken(slider)) return []
    const [left, right] = sidesOf(recipe, slider)
    const [toLeft, toRight] = sidesOf(other, same)
    return [[slider.id, [towards(left, toLeft), towards(right, toRight)]]]
  })
  return setSliders(recipe, Object.fromEntries(values), own)
}

/**
 * What the other wears, in every slot that is not locked: a slot that is empty there becomes empty here, unless
 * the body needs it.
 *
 * @param only of these slots alone
 */
export function takeParts(recipe: Recipe, other: Recipe, kits: Manifests, only?: ReadonlySet<string>): Recipe {
  const needed = bodyOf(kits, recipe.body)?.defaults ?? {}
  const taken = new Set(
    slotsFor(kits, recipe.body)
      .map((s) => s.id)
      .filter((slot) => !recipe.locks.includes(slot) && (!only || only.has(slot))),
  )
  const fitting = other.parts.filter(
    ({ slot, part }) =>
      taken.has(slot) &&
      partsFor(kits, recipe.body, slot).some(({ kit, def }) => kit === part.kit && def.id === part.id),
  )
  const filled = new Set(fitting.map((p) => p.slot))
  for (const slot of taken) if (!filled.has(slot) && Object.hasOwn(needed, slot)) taken.delete(slot)
  const kept = recipe.parts.filter((p) => !taken.has(p.slot))
  // ids are each recipe's own: one that is taken here gets a new one
  const ids = new Set(kept.map((p) => p.id))
  const parts = [...kept]
  const renamed = new Map<string, string>()
  for (const part of fitting) {
    let id = part.id
    for (let n = 2; ids.has(id); n++) id = `${part.id}-${n}`
    ids.add(id)
    renamed.set(part.id, id)
  }
  for (const part of fitting) {
    const id = renamed.get(part.id)!
    // a spot on a surface is one of that surface alone
    const { place, ...plain } = part
    const keeps = place && (recipe.body.id === other.body.id || !place.at || 'socket' in place.at)
    parts.push({ ...plain, id, ...(keeps ? { place: onRenamed(place, renamed) } : {}) })
  }
  const same = JSON.stringify(parts) === JSON.stringify(recipe.parts)
  const there = new Set(kept.map((p) => p.id))
  const gone = recipe.parts.filter((p) => !there.has(p.id)).map((p) => p.id)
  return same ? recipe : withoutNudgesOf({ ...recipe, parts }, new Set(gone))
}

/** A place on something that bears another name now. */
function onRenamed(place: Place, renamed: ReadonlyMap<string, string>): Place {
  const { at } = place
  if (!at || !('triangle' in at) || !at.on) return place
  return { ...place, at: { ...at, on: { ...at.on, instance: renamed.get(at.on.instance) ?? at.on.instance } } }
}

/** The other's colors, of every region it has given one. */
export function takeColors(recipe: Recipe, other: Recipe): Recipe {
  return setColors(
    recipe,
    Object.fromEntries(Object.entries(other.colors).filter(([region]) => !isHeld(recipe, 'colors', region))),
  )
}

/** Mixes what both have colored in linear light; a region only one of them has colored changes half way. */
function mixColors(recipe: Recipe, other: Recipe, t: number): Recipe {
  const [near, far] = t < 0.5 ? [recipe, other] : [other, recipe]
  const held = Object.entries(recipe.colors).filter(([region]) => isHeld(recipe, 'colors', region))
  const free = Object.entries(near.colors).filter(([region]) => !isHeld(recipe, 'colors', region))
  const colors = free.map(([region, color]): [string, string] => {
    const opposite = Object.hasOwn(far.colors, region) ? far.colors[region]! : color
    return [region, mix(color, opposite, Math.min(t, 1 - t))]
  })
  return { ...recipe, colors: Object.fromEntries([...colors, ...held]) }
}

/** Two colors, #rrggbb, mixed in linear light (the transfer function of IEC 61966-2-1). */
function mix(a: string, b: string, t: number): string {
  if (t === 0) return a
  const channel = (color: string, k: number) => {
    const v = parseInt(color.slice(1 + 2 * k, 3 + 2 * k), 16) / 255
    return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
  }
  const hex = (k: number) => {
    const v = channel(a, k) * (1 - t) + channel(b, k) * t
    const encoded = v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055
    return Math.round(encoded * 255)
      .toString(16)
      .padStart(2, '0')
  }
  return `#${hex(0)}${hex(1)}${hex(2)}`
}
