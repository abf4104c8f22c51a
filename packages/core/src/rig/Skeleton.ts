import { foldBones, type DetailLevel } from '../kit/skeletonPlan.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'

export interface Bone {
  name: string
  /** Index of the parent, -1 for the root; parents come first. */
  parent: number
  /** Joint in the rest pose, metres, in the figure's space. Bones are not turned in the rest pose. */
  at: [number, number, number]
}

export interface Skeleton {
  detail: DetailLevel
  bones: Bone[]
  /** Body bone index to index in `bones`. */
  fold: Uint8Array
}

/** The skeleton of a shaped body: every joint stands at its landmark. */
export function buildSkeleton(
  body: PreparedBody,
  landmarks: Float32Array,
  detail: DetailLevel,
  lift: number,
): Skeleton {
  const planned = body.model.bones
  const onto = foldBones(planned, detail)
  const kept = planned.map((_, i) => i).filter((i) => onto[i] === i)
  const place = new Map(kept.map((i, k) => [i, k]))
  const nameIndex = new Map(planned.map((b, i) => [b.name, i]))
  const bones = kept.map((i): Bone => {
    const { name, parent } = planned[i]!
    const o = body.landmarkIndex.get(name)! * 3
    return {
      name,
      parent: parent === null ? -1 : place.get(onto[nameIndex.get(parent)!]!)!,
      at: [landmarks[o]!, landmarks[o + 1]! + lift, landmarks[o + 2]!],
    }
  })
  return { detail, bones, fold: Uint8Array.from(onto, (i) => place.get(i)!) }
}

/**
 * Rewrites skin onto a skeleton: weights of bones that are not there fold onto those that carry
 * them, then only the strongest `influences` stay, scaled to sum to one.
 *
 * @param joints  four body bones a point
 * @param weights four weights a point
 */
export function foldSkin(
  joints: Uint8Array,
  weights: Float32Array,
  fold: Uint8Array,
  influences: number,
): { joints: Uint8Array; weights: Float32Array } {
  const outJoints = new Uint8Array(joints.length)
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
