import type { BodyPlan } from '../kit/plan.ts'
import type { Recipe } from './schema.ts'

/** How soft a joint of the figure is: 0 as its kit has it, to 1 softer, to -1 stiffer. */
export function softnessOf(recipe: Recipe, bone: string): number {
  return recipe.joints && Object.hasOwn(recipe.joints, bone) ? recipe.joints[bone]! : 0
}

/** Makes a joint softer or stiffer, and the one that mirrors it. */
export function setSoftness(recipe: Recipe, plan: Pick<BodyPlan, 'pairs'>, bone: string, softness: number): Recipe {
  const pair = plan.pairs.find(({ left, right }) => left === bone || right === bone)
  const { joints = {}, ...rest } = recipe
  const value = Math.min(1, Math.max(-1, Math.round(softness * 100) / 100))
  const both = pair ? [pair.left, pair.right] : [bone]
  if (both.every((b) => softnessOf(recipe, b) === value)) return recipe
  const others = Object.entries(joints).filter(([name]) => !both.includes(name))
  const all = value === 0 ? others : [...others, ...both.map((b) => [b, value] as const)]
  return all.length ? { ...rest, joints: Object.fromEntries(all) } : rest
}
