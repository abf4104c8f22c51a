import { SPRING_RANGES, type Spring } from '../motion/springs.ts'
import type { Recipe } from './schema.ts'

/** How a chain of the figure swings, by its limb's id; null where it goes as its clips have it. */
export function springOf({ springs }: Pick<Recipe, 'springs'>, limb: string): Spring | null {
  return springs && Object.hasOwn(springs, limb) ? springs[limb]! : null
}

/** Lets chains swing, within what is of use, or go as their clips have them. */
export function setSprings(recipe: Recipe, limbs: readonly string[], spring: Spring | null): Recipe {
  const value = spring && within(spring)
  const same = (a: Spring | null) => JSON.stringify(a && within(a)) === JSON.stringify(value)
  if (limbs.every((limb) => same(springOf(recipe, limb)))) return recipe
  const { springs: before = {}, ...rest } = recipe
  const others = Object.entries(before).filter(([limb]) => !limbs.includes(limb))
  const all = value ? [...others, ...limbs.map((limb) => [limb, value] as const)] : others
  return all.length ? { ...rest, springs: Object.fromEntries(all) } : rest
}

function within(spring: Spring): Spring {
  const of = (key: keyof Spring) => {
    const [least, , most] = SPRING_RANGES[key]
    return Math.round(Math.min(most, Math.max(least, spring[key])) * 100) / 100
  }
  return { stiffness: of('stiffness'), drag: of('drag'), gravity: of('gravity') }
}
