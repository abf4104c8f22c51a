import { pointsInUse, type Mesh } from '../mesh/Mesh.ts'
import { skinPoints, type WorldPose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'

/** Points at rest, xyz each, metres, and the four bones that each hangs on. */
export type Skin = Pick<Mesh, 'positions' | 'joints' | 'weights'>

/** What of a figure can touch the ground with one limb: its points at rest, with their skin. */
export interface Sole extends Skin {
  /** The limb's id. */
  limb: string
}

/** A point belongs to a sole from this share of its weights on. */
const SHARE = 0.3

/**
 * What of a figure as it is dressed can touch the ground: the points that hang on each leg's foot
 * and toes, on each hand (what it holds), and on chains that trail (tails) with what these carry (a
 * head). Only points that are drawn count.
 */
export function solesOf(mesh: Skin & Pick<Mesh, 'cornerPoints'>, { limbs, bones }: Skeleton): Sole[] {
  const seen = pointsInUse(mesh)
  return limbs
    .filter((limb) => limb.kind !== 'digit')
    .map((limb) => {
      const jointed = limb.kind === 'leg' || limb.kind === 'arm'
      const own = new Set(limb.bones.slice(jointed ? 2 : 0).map((name) => bones.findIndex((b) => b.name === name)))
      if (!jointed) bones.forEach(({ parent }, b) => own.has(parent) && own.add(b))
      // of a leg what lies above the ankle cannot come down to the ground before what lies below
      const ankle = limb.kind === 'leg' ? bones[[...own][0]!]!.at[1] : Infinity
      const points = seen.filter((p) => {
        if (mesh.positions[p * 3 + 1]! > ankle) return false
        let share = 0
        for (let k = 0; k < 4; k++) if (own.has(mesh.joints[p * 4 + k]!)) share += mesh.weights[p * 4 + k]!
        return share >= SHARE
      })
      return { limb: limb.id, ...takePoints(mesh, points) }
    })
}

/** Some of the points of a mesh. */
export function takePoints({ positions, joints, weights }: Skin, points: ArrayLike<number>): Skin {
  const taken = {
    positions: new Float32Array(points.length * 3),
    joints: new Uint16Array(points.length * 4),
    weights: new Float32Array(points.length * 4),
  }
  for (let i = 0; i < points.length; i++) {
    const p = points[i]!
    for (let k = 0; k < 3; k++) taken.positions[i * 3 + k] = positions[p * 3 + k]!
    for (let k = 0; k < 4; k++) {
      taken.joints[i * 4 + k] = joints[p * 4 + k]!
      taken.weights[i * 4 + k] = weights[p * 4 + k]!
    }
  }
  return taken
}

/** The bone that each point hangs on most. */
export function strongestBones({ joints, weights }: Skin): Uint16Array {
  const bones = new Uint16Array(joints.length / 4)
  for (let p = 0; p < bones.length; p++) {
    let best = p * 4
    for (let i = best + 1; i < p * 4 + 4; i++) if (weights[i]! > weights[best]!) best = i
    bones[p] = joints[best]!
  }
  return bones
}

/** By bone, how far from its joint points lie at most, metres; in any pose. */
export function farthestFrom(
  { positions, joints, weights }: Skin,
  bones: Skeleton['bones'],
): [bone: number, far: number][] {
  const reach = new Map<number, number>()
  for (let i = 0; i < weights.length; i++) {
    if (weights[i] === 0) continue
    const p = (i >> 2) * 3
    const at = bones[joints[i]!]!.at
    const far = Math.hypot(positions[p]! - at[0], positions[p + 1]! - at[1], positions[p + 2]! - at[2])
    reach.set(joints[i]!, Math.max(far, reach.get(joints[i]!) ?? 0))
  }
  return [...reach]
}

/** The sole's points in a pose, into `out`; xyz a point. */
export function poseSole(skeleton: Skeleton, world: WorldPose, sole: Sole, out: Float32Array): void {
  skinPoints(skeleton.bones, world, sole.positions, sole.joints, sole.weights, out)
}

/** The lowest of some points, metres; Infinity of none. */
export function lowestOf(positions: Float32Array): number {
  let lowest = Infinity
  for (let i = 1; i < positions.length; i += 3) if (positions[i]! < lowest) lowest = positions[i]!
  return lowest
}

/** Where the lowest of some points stands in their list: the offset of its x; 0 of none. */
export function lowestPoint(positions: Float32Array): number {
  let best = 0
  for (let p = 3; p < positions.length; p += 3) if (positions[p + 1]! < positions[best + 1]!) best = p
  return best
}
