import type { Recipe, Reference } from './schema.ts'

/*
 * Edits are pure: each takes a recipe and returns a new one; an edit that changes nothing returns
 * the recipe it was given, so that history can tell.
 */

export function rename(recipe: Recipe, name: string): Recipe {
  const trimmed = name.trim().slice(0, 80)
  return trimmed === '' || trimmed === recipe.name ? recipe : { ...recipe, name: trimmed }
}

export function setPart(recipe: Recipe, slot: string, part: Reference): Recipe {
  const now = recipe.parts[slot]
  if (now && now.kit === part.kit && now.id === part.id && now.kitVersion === part.kitVersion) return recipe
  return { ...recipe, parts: { ...recipe.parts, [slot]: part } }
}

export function clearPart(recipe: Recipe, slot: string): Recipe {
  return slot in recipe.parts ? { ...recipe, parts: without(recipe.parts, slot) } : recipe
}

/** Sets a slider, rounded to a thousandth so that a drag leaves tidy documents; zero is left out. */
export function setSlider(
  recipe: Recipe,
  slider: string,
  value: number,
  range: { min: number; max: number; default: number },
): Recipe {
  return setSliders(recipe, { [slider]: value }, [{ id: slider, ...range }])
}

/** Sets several sliders at once, each as `setSlider` does; values for sliders that are not there are left out. */
export function setSliders(
  recipe: Recipe,
  values: Readonly<Record<string, number>>,
  sliders: readonly { id: string; min: number; max: number; default: number }[],
): Recipe {
  const next = { ...recipe.sliders }
  let changed = false
  for (const { id, min, max, default: unset } of sliders) {
    const value = values[id]
    if (value === undefined || !Number.isFinite(value)) continue
    const clamped = Math.round(Math.min(max, Math.max(min, value)) * 1000) / 1000
    if ((next[id] ?? unset) === clamped) continue
    changed = true
    if (clamped === unset) delete next[id]
    else next[id] = clamped
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

/** Says that the body and the parts are those of the kits that are here; kits that are not keep their version. */
export function adoptVersions(recipe: Recipe, versions: ReadonlyMap<string, string>): Recipe {
  const adopt = <T extends Reference>(ref: T): T => {
    const kitVersion = versions.get(ref.kit) ?? ref.kitVersion
    return kitVersion === ref.kitVersion ? ref : { ...ref, kitVersion }
  }
  const body = adopt(recipe.body)
  const parts = Object.fromEntries(Object.entries(recipe.parts).map(([slot, ref]) => [slot, adopt(ref)]))
  const same = body === recipe.body && Object.keys(parts).every((slot) => parts[slot] === recipe.parts[slot])
  return same ? recipe : { ...recipe, body, parts }
}

function without<T>(record: Record<string, T>, key: string): Record<string, T> {
  const { [key]: _gone, ...rest } = record
  return rest
}
