import { freeInstanceId, partsIn, sides } from './instances.ts'
import { withoutNudgesOf } from './nudges.ts'
import type { HeldKind, PartInstance, Place, Recipe, Reference, SliderValue } from './schema.ts'

/*
 * Edits are pure: each takes a recipe and returns a new one; an edit that changes nothing returns
 * the recipe it was given, so that history can tell.
 */

export function rename(recipe: Recipe, name: string): Recipe {
  const trimmed = name.trim().slice(0, 80)
  return trimmed === '' || trimmed === recipe.name ? recipe : { ...recipe, name: trimmed }
}

/** Fills a slot with one part: the first instance there takes it, any others leave. */
export function setPart(recipe: Recipe, slot: string, part: Reference): Recipe {
  const [first, ...others] = partsIn(recipe, slot)
  if (!first) return addPart(recipe, slot, part)
  if (others.length === 0 && sameReference(first.part, part)) return recipe
  const keep = recipe.parts.filter((p) => p.slot !== slot || p.id === first.id)
  // where it sits, how close it lies and what was nudged on it was said of the part that goes
  const gone = others.map((p) => p.id)
  if (!sameReference(first.part, part)) gone.push(first.id)
  return withoutNudgesOf(
    { ...recipe, parts: keep.map((p) => (p.id === first.id ? { id: p.id, slot, part } : p)) },
    new Set(gone),
  )
}

/** Puts one more part into a slot, beside those that are there. */
export function addPart(
  recipe: Recipe,
  slot: string,
  part: Reference,
  more: Omit<PartInstance, 'id' | 'slot' | 'part'> = {},
): Recipe {
  return { ...recipe, parts: [...recipe.parts, { id: freeInstanceId(recipe.parts, slot), slot, part, ...more }] }
}

/** Takes off one instance. */
export function removePart(recipe: Recipe, id: string): Recipe {
  if (!recipe.parts.some((p) => p.id === id)) return recipe
  return withoutNudgesOf({ ...recipe, parts: recipe.parts.filter((p) => p.id !== id) }, new Set([id]))
}

/** Says where an instance sits; without a place it goes back to where its kit puts it. */
export function placePart(recipe: Recipe, id: string, place: Place | undefined): Recipe {
  return changeInstance(recipe, id, 'place', place)
}

/** The same part once more, placed otherwise. */
export function copyPart(recipe: Recipe, id: string, place: Place | undefined): Recipe {
  const now = recipe.parts.find((p) => p.id === id)
  if (!now) return recipe
  const { id: _id, slot, part, place: _place, ...rest } = now
  return addPart(recipe, slot, part, { ...rest, ...(place && { place }) })
}

/** A place as in a mirror: the spot across is the caller's to find. */
export function mirroredPlace(place: Place | undefined, at: Place['at']): Place {
  const { turn, mirrored, ...rest } = place ?? {}
  return {
    ...rest,
    ...(at && { at }),
    ...(turn && { turn: [turn[0], -turn[1] || 0, -turn[2] || 0] }),
    ...(!mirrored && { mirrored: true }),
  }
}

/** Says how an instance lies among the garments; undefined: as its kit says. */
export function setLayer(recipe: Recipe, id: string, layer: number | undefined): Recipe {
  return changeInstance(recipe, id, 'layer', layer)
}

/** Says how far an instance keeps off what lies beneath, millimetres; undefined: as its kit says. */
export function setClearance(recipe: Recipe, id: string, clearance: number | undefined): Recipe {
  return changeInstance(recipe, id, 'clearance', clearance)
}

function changeInstance<K extends 'place' | 'layer' | 'clearance'>(
  recipe: Recipe,
  id: string,
  key: K,
  value: PartInstance[K] | undefined,
): Recipe {
  const now = recipe.parts.find((p) => p.id === id)
  if (!now || JSON.stringify(now[key]) === JSON.stringify(value)) return recipe
  const { [key]: _old, ...rest } = now
  const next = (value === undefined ? rest : { ...rest, [key]: value }) as PartInstance
  return { ...recipe, parts: recipe.parts.map((p) => (p.id === id ? next : p)) }
}

/** Empties a slot. */
export function clearPart(recipe: Recipe, slot: string): Recipe {
  const gone = new Set(partsIn(recipe, slot).map((p) => p.id))
  if (gone.size === 0) return recipe
  return withoutNudgesOf({ ...recipe, parts: recipe.parts.filter((p) => !gone.has(p.id)) }, gone)
}

interface Range {
  min: number
  max: number
  default: number
}

/** Sets a slider, rounded to a thousandth so that a drag leaves tidy documents; one at its default is left out. */
export function setSlider(recipe: Recipe, slider: string, value: SliderValue, range: Range): Recipe {
  return setSliders(recipe, { [slider]: value }, [{ id: slider, ...range }])
}

/** Sets several sliders at once, each as `setSlider` does; values for sliders that are not there are left out. */
export function setSliders(
  recipe: Recipe,
  values: Readonly<Record<string, SliderValue>>,
  sliders: readonly ({ id: string } & Range)[],
): Recipe {
  const next = { ...recipe.sliders }
  let changed = false
  for (const { id, min, max, default: unset } of sliders) {
    const value = Object.hasOwn(values, id) ? values[id] : undefined
    if (value === undefined || !sides(value).every(Number.isFinite)) continue
    const [left, right] = sides(value).map((v) => Math.round(Math.min(max, Math.max(min, v)) * 1000) / 1000) as [
      number,
      number,
    ]
    const [oldLeft, oldRight] = sides(Object.hasOwn(next, id) ? next[id]! : unset)
    if (oldLeft === left && oldRight === right) continue
    changed = true
    if (left === right && left === unset) delete next[id]
    else next[id] = left === right ? left : [left, right]
  }
  return changed ? { ...recipe, sliders: next } : recipe
}

export function setColor(recipe: Recipe, region: string, color: string): Recipe {
  return recipe.colors[region] === color ? recipe : { ...recipe, colors: { ...recipe.colors, [region]: color } }
}

export function setColors(recipe: Recipe, colors: Record<string, string>): Recipe {
  const same = Object.entries(colors).every(([region, color]) => recipe.colors[region] === color)
  return same ? recipe : { ...recipe, colors: { ...recipe.colors, ...colors } }
}

export function setLock(recipe: Recipe, slot: string, locked: boolean): Recipe {
  if (recipe.locks.includes(slot) === locked) return recipe
  return { ...recipe, locks: locked ? [...recipe.locks, slot].sort() : recipe.locks.filter((s) => s !== slot) }
}

/** Whether a slider group or a color region is left alone by shuffling and blending. */
export function isHeld(recipe: Pick<Recipe, 'held'>, kind: HeldKind, id: string): boolean {
  return recipe.held?.[kind]?.includes(id) ?? false
}

export function setHeld(recipe: Recipe, kind: HeldKind, id: string, on: boolean): Recipe {
  if (isHeld(recipe, kind, id) === on) return recipe
  const now = recipe.held?.[kind] ?? []
  const next = on ? [...now, id].sort() : now.filter((other) => other !== id)
  const { [kind]: _before, ...others } = recipe.held ?? {}
  const held = { ...others, ...(next.length && { [kind]: next }) }
  const { held: _held, ...rest } = recipe
  return Object.keys(held).length ? { ...rest, held } : rest
}

/** Says that the body and the parts are those of the kits that are here; kits that are not keep their version. */
export function adoptVersions(recipe: Recipe, versions: ReadonlyMap<string, string>): Recipe {
  const adopt = (ref: Reference): Reference => {
    const kitVersion = versions.get(ref.kit) ?? ref.kitVersion
    return kitVersion === ref.kitVersion ? ref : { ...ref, kitVersion }
  }
  const body = adopt(recipe.body)
  const parts = recipe.parts.map((p) => {
    const part = adopt(p.part)
    return part === p.part ? p : { ...p, part }
  })
  const same = body === recipe.body && parts.every((p, i) => p === recipe.parts[i])
  return same ? recipe : { ...recipe, body, parts }
}

function sameReference(a: Reference, b: Reference): boolean {
  return a.kit === b.kit && a.id === b.id && a.kitVersion === b.kitVersion
}
