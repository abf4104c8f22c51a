import { foldBones, type DetailLevel, type Limb, type PlannedBone } from '../kit/plan.ts'

export interface Bone {
  name: string
  /** Index of the parent, -1 for the root; parents come first. */
  parent: number
  /** Joint in the rest pose, metres, in the figure's space. */
  at: [number, number, number]
  /** Where the bone ends: the joint of its first child, or beyond its own as far again as it is from its parent. */
  tail: [number, number, number]
  /**
   * How the bone itself is turned at rest, xyzw, in the figure's space. Poses are told apart from
   * it (see `Pose`); it matters to files that want bones to lie along their limbs.
   */
  turn: [number, number, number, number]
}

/** The bones of one figure, and the limbs they make. */
export interface Skeleton {
  detail: DetailLevel
  bones: Bone[]
  /** Index of a planned bone to index in `bones`. */
  fold: Uint16Array
  limbs: Limb[]
  /** Bones that mirror each other, by the channel that turns both; indices, left before right. */
  pairs: { id: string; left: number; right: number }[]
}

/** What a skeleton is made from: the bones of body and parts, and what the plan says of them. */
export interface RigPlan {
  bones: readonly PlannedBone[]
  limbs: readonly Limb[]
  pairs: readonly { id: string; left: string; right: string }[]
}

const UNTURNED: Bone['turn'] = [0, 0, 0, 1]

/**
 * The skeleton of a figure at a level of detail.
 *
 * @param joints where each planned bone's joint stands, xyz, metres
 */
export function buildSkeleton(plan: RigPlan, joints: Float32Array, detail: DetailLevel): Skeleton {
  const onto = foldBones(plan.bones, detail)
  const kept = plan.bones.map((_, i) => i).filter((i) => onto[i] === i)
  const place = new Map(kept.map((i, k) => [i, k]))
  const planned = new Map(plan.bones.map((b, i) => [b.name, i]))
  const bones = kept.map((i): Bone => {
    const { name, parent } = plan.bones[i]!
    const at: Bone['at'] = [joints[i * 3]!, joints[i * 3 + 1]!, joints[i * 3 + 2]!]
    return {
      name,
      parent: parent === null ? -1 : place.get(onto[planned.get(parent)!]!)!,
      at,
      tail: at,
      turn: [...UNTURNED],
    }
  })
  setTails(bones)
  const index = new Map(bones.map((b, i) => [b.name, i]))
  return {
    detail,
    bones,
    fold: Uint16Array.from(onto, (i) => place.get(i)!),
    limbs: plan.limbs.flatMap((limb) => keptLimb(limb, index)),
    pairs: plan.pairs.flatMap(({ id, left, right }) => {
      const [l, r] = [index.get(left), index.get(right)]
      return l === undefined || r === undefined ? [] : [{ id, left: l, right: r }]
    }),
  }
}

function setTails(bones: Bone[]): void {
  const first = new Map<number, Bone>()
  for (const bone of bones) if (!first.has(bone.parent)) first.set(bone.parent, bone)
  bones.forEach((bone, i) => {
    const child = first.get(i)
    const from = bone.parent >= 0 ? bones[bone.parent]!.at : bone.at
    bone.tail = child ? [...child.at] : (bone.at.map((v, k) => v + (v - from[k]!) * 0.6) as [number, number, number])
  })
}

/** A bone and all that hang from it; parents come before their children. */
export function bonesBelow(parents: readonly number[], top: number): Set<number> {
  const found = new Set([top])
  parents.forEach((parent, bone) => found.has(parent) && found.add(bone))
  return found
}

/** A limb at this detail: a leg or arm as long as its first bones are there, a chain with those that are. */
function keptLimb(limb: Limb, index: ReadonlyMap<string, number>): Limb[] {
  const kept = limb.bones.filter((b) => index.has(b))
  const jointed = limb.kind === 'leg' || limb.kind === 'arm'
  const whole = limb.bones.slice(0, limb.kind === 'leg' ? 3 : 2).every((b) => index.has(b))
  return kept.length && (!jointed || whole) ? [{ ...limb, bones: kept }] : []
}

/**
 * Rewrites skin onto a skeleton: weights of bones that are not there fold onto those that carry
 * them, then only the strongest `influences` stay, scaled to sum to one.
 *
 * @param joints  four planned bones a point
 * @param weights four weights a point
 */
export function foldSkin(
  joints: Uint16Array,
  weights: Float32Array,
  fold: Uint16Array,
  influences: number,
): { joints: Uint16Array; weights: Float32Array } {
  const outJoints = new Uint16Array(joints.length)
  const outWeights = new Float32Array(weights.length)
  const bones = [0, 0, 0, 0]
  const sums = [0, 0, 0, 0]
  for (let p = 0; p < joints.length; p += 4) {
    let n = 0
    for (let k = 0; k < 4; k++) {
      const w = weights[p + k]!
      if (w <= 0) continue
      const bone = fold[joints[p + k]!]!
      let at = 0
      while (at < n && bones[at] !== bone) at++
      if (at === n) {
        bones[n] = bone
        sums[n++] = 0
      }
      sums[at]! += w
    }
    let total = 0
    const keep = Math.min(n, influences)
    for (let k = 0; k < keep; k++) {
      let best = k
      for (let i = k + 1; i < n; i++) if (sums[i]! > sums[best]!) best = i
      ;[bones[k], bones[best]] = [bones[best]!, bones[k]!]
      ;[sums[k], sums[best]] = [sums[best]!, sums[k]!]
      total += sums[k]!
    }
    if (total === 0) {
      outWeights[p] = 1
      continue
    }
    for (let k = 0; k < keep; k++) {
      outJoints[p + k] = bones[k]!
      outWeights[p + k] = sums[k]! / total
    }
  }
  return { joints: outJoints, weights: outWeights }
}
