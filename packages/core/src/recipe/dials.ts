import type { Dials } from '../motion/dials.ts'
import type { Recipe } from './schema.ts'

/** How a figure plays a clip: what of it is not as it was made. */
export function dialsOf({ dials }: Pick<Recipe, 'dials'>, clip: string): Dials {
  return dials && Object.hasOwn(dials, clip) ? dials[clip]! : {}
}

/** Sets how a figure plays a clip; with nothing said, as it was made. */
export function setDials(recipe: Recipe, clip: string, dials: Dials): Recipe {
  if (JSON.stringify(dialsOf(recipe, clip)) === JSON.stringify(dials)) return recipe
  const { dials: before = {}, ...rest } = recipe
  const { [clip]: _old, ...others } = before
  const all = Object.keys(dials).length ? { ...others, [clip]: dials } : others
  return Object.keys(all).length ? { ...rest, dials: all } : rest
}
