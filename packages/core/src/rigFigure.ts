import { jointsAt } from './body/PreparedBody.ts'
import { partJoints } from './dress/outfit.ts'
import type { DetailLevel } from './kit/plan.ts'
import { pointTriangles } from './mesh/Mesh.ts'
import type { Recipe } from './recipe/schema.ts'
import { jointsOf, refineRig, type RefinedRig, type Refinement } from './rig/refineRig.ts'
import { softenJoints } from './rig/softenJoints.ts'
import { buildSkeleton, type Skeleton } from './rig/Skeleton.ts'
import type { Dressed, Shape } from './shapeFigure.ts'

/**
 * The bones of a figure and what hangs on them, before any is left out: made on the figure as its kits have it, so that
 * sliders move joints and skin together.
 *
 * @param softness by joint
 */
export function rigOutfit(
  { body, outfit, merged }: Dressed,
  softness: NonNullable<Recipe['joints']>,
  wanted: Refinement,
): RefinedRig {
  const { bones, limbs, plan } = body.model
  const rigPlan = { bones: [...bones, ...merged.bones], limbs: [...limbs, ...merged.limbs], pairs: plan.pairs }
  const at = Float32Array.from([...jointsAt(body, body.landmarks), ...partJoints(outfit, [])])
  const skin = Object.keys(softness).length
    ? softenJoints({ ...merged.mesh, triangles: pointTriangles(merged.mesh) }, rigPlan.bones, at, softness)
    : merged.mesh
  return refineRig(rigPlan, { ...merged.mesh, ...skin, at }, wanted)
}

/**
 * The skeleton of a shaped figure at a level of detail.
 *
 * @returns besides, which of its bones stands for each of the refined plan's: what skin is folded by
 */
export function skeletonOf(
  refined: RefinedRig,
  { joints, positions }: Pick<Shape, 'joints' | 'positions'>,
  detail: DetailLevel,
): { skeleton: Skeleton; fold: Uint16Array } {
  const { fold, ...skeleton } = buildSkeleton(refined.plan, jointsOf(refined, joints, positions), detail)
  return { skeleton: { ...skeleton, fold: refined.instead.map((i) => fold[i]!) }, fold }
}
