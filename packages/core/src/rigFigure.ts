import { jointsAt } from './body/PreparedBody.ts'
import { partJoints } from './dress/outfit.ts'
import { DETAIL_LEVELS, type DetailLevel } from './kit/plan.ts'
import { pointTriangles } from './mesh/Mesh.ts'
import type { Recipe } from './recipe/schema.ts'
import { jointsOf, refineRig, type RefinedRig, type Refinement } from './rig/refineRig.ts'
import { softenJoints } from './rig/softenJoints.ts'
import { buildSkeleton, type Skeleton } from './rig/Skeleton.ts'
import type { Dressed, Shape } from './shapeFigure.ts'

const [COARSEST] = DETAIL_LEVELS

/** What reaches farther than this from its bone swings visibly with it, metres of a grown person's size: a pole, not a cup. */
const FAR_THING = 0.4

/**
 * Bones that something stiff and long hangs on: left out at a coarse level, with what turns it gone, its end would go
 * through walls and ground.
 */
function bonesWithFarThings({ mesh, rest, pieces }: Dressed['merged'], at: Float32Array, far: number): Set<number> {
  const found = new Set<number>()
  for (const { points } of pieces.slice(1)) {
    const bone = mesh.joints[points[0] * 4]!
    let reach = 0
    let stiff = points[1] > points[0]
    for (let p = points[0]; p < points[1] && stiff; p++) {
      stiff = mesh.joints[p * 4] === bone && mesh.weights[p * 4]! > 0.999
      reach = Math.max(reach, Math.hypot(...[0, 1, 2].map((k) => rest[p * 3 + k]! - at[bone * 3 + k]!)))
    }
    if (stiff && reach > far) found.add(bone)
  }
  return found
}

/** Bones with those of the other side: importers take no skeleton for a human that has a bone on one side alone. */
function bothSides(
  some: ReadonlySet<number>,
  bones: readonly { name: string }[],
  pairs: readonly { left: string; right: string }[],
): Set<number> {
  const names = new Set(Array.from(some, (b) => bones[b]!.name))
  for (const { left, right } of pairs) if (names.has(left) || names.has(right)) names.add(left).add(right)
  return new Set(bones.flatMap(({ name }, b) => (names.has(name) ? [b] : [])))
}

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
  const at = Float32Array.from([...jointsAt(body, body.landmarks), ...partJoints(outfit, [])])
  const planned = [...bones, ...merged.bones]
  const swinging = bothSides(bonesWithFarThings(merged, at, FAR_THING * body.scale), planned, plan.pairs)
  const rigPlan = {
    bones: planned.map((bone, b) => (swinging.has(b) ? { ...bone, level: COARSEST } : bone)),
    limbs: [...limbs, ...merged.limbs],
    pairs: plan.pairs,
  }
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
