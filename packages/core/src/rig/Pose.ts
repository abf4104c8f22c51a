import { Euler, Quaternion } from 'three'

/** The least that posing needs to know of a skeleton. */
export type Jointed = readonly { parent: number; at: readonly number[] }[]

/**
 * A moment of motion. A bone's turn is that from its rest direction, seen in axes that run with the
 * figure's own at rest (x left, y up, z front) and turn with the parent; so it does not depend on
 * how bones themselves lie.
 */
export interface Pose {
  /** xyzw a bone. */
  turns: Float32Array
  /** Where the root's joint stands, metres. */
  root: [number, number, number]
}

/** Where every bone is in a pose: joints, xyz, metres, and turns from rest in the figure's space, xyzw. */
export interface WorldPose {
  joints: Float32Array
  turns: Float32Array
}

export function restPose(bones: Jointed): Pose {
  const turns = new Float32Array(bones.length * 4)
  for (let i = 3; i < turns.length; i += 4) turns[i] = 1
  const [x, y, z] = bones[0]!.at
  return { turns, root: [x!, y!, z!] }
}

/** A pose from turns about the world's x, y and z at rest, in degrees, by bone; bones not named stay at rest. */
export function poseOfTurns(
  bones: readonly { name: string; parent: number; at: readonly number[] }[],
  turns: Readonly<Record<string, readonly [number, number, number]>>,
): Pose {
  const pose = restPose(bones)
  bones.forEach(({ name }, i) => {
    const turn = Object.hasOwn(turns, name) ? turns[name] : undefined
    if (!turn) return
    const [x, y, z] = turn.map((d) => (d * Math.PI) / 180) as [number, number, number]
    new Quaternion().setFromEuler(new Euler(x, y, z)).toArray(pose.turns, i * 4)
  })
  return pose
}

export function createWorldPose(bones: Jointed): WorldPose {
  return { joints: new Float32Array(bones.length * 3), turns: new Float32Array(bones.length * 4) }
}

/**
 * Forward kinematics: the only one there is. Parents come before their children. Allocates nothing.
 *
 * @param only the bones that are asked for, ascending, with all that they hang on; what stands for others is left
 */
export function solveForward(bones: Jointed, pose: Pose, out: WorldPose, only?: ArrayLike<number>): WorldPose {
  const { joints, turns } = out
  const count = only ? only.length : bones.length
  for (let n = 0; n < count; n++) {
    const i = only ? only[n]! : n
    const { parent, at } = bones[i]!
    if (parent < 0) {
      joints.set(pose.root, i * 3)
      turns.set(pose.turns.subarray(i * 4, i * 4 + 4), i * 4)
      continue
    }
    const from = bones[parent]!.at
    rotate(turns, parent * 4, at[0]! - from[0]!, at[1]! - from[1]!, at[2]! - from[2]!, joints, i * 3)
    for (let k = 0; k < 3; k++) joints[i * 3 + k]! += joints[parent * 3 + k]!
    Quaternion.multiplyQuaternionsFlat(
      turns as unknown as number[],
      i * 4,
      turns as unknown as number[],
      parent * 4,
      pose.turns as unknown as number[],
      i * 4,
    )
  }
  return out
}

/** The bones that points hang on, with all that these hang on, ascending. */
export function bonesOf(
  bones: Jointed,
  skins: readonly { joints: ArrayLike<number>; weights: ArrayLike<number> }[],
): number[] {
  const used = new Uint8Array(bones.length)
  for (const { joints, weights } of skins)
    for (let i = 0; i < joints.length; i++) if (weights[i] !== 0) used[joints[i]!] = 1
  for (let b = bones.length - 1; b >= 0; b--) if (used[b] && bones[b]!.parent >= 0) used[bones[b]!.parent] = 1
  return [...bones.keys()].filter((b) => used[b])
}

/** Turns a vector by the quaternion at `q` of a list, into `out` at `o`. */
function rotate(
  quaternions: ArrayLike<number>,
  q: number,
  x: number,
  y: number,
  z: number,
  out: Float32Array,
  o: number,
): void {
  const qx = quaternions[q]!
  const qy = quaternions[q + 1]!
  const qz = quaternions[q + 2]!
  const qw = quaternions[q + 3]!
  const tx = 2 * (qy * z - qz * y)
  const ty = 2 * (qz * x - qx * z)
  const tz = 2 * (qx * y - qy * x)
  out[o] = x + qw * tx + qy * tz - qz * ty
  out[o + 1] = y + qw * ty + qz * tx - qx * tz
  out[o + 2] = z + qw * tz + qx * ty - qy * tx
}

const turned = new Float32Array(3)

/**
 * Linear-blend skinning of points from rest into a pose.
 *
 * @param positions xyz a point at rest, metres
 * @param joints    four bones a point; `weights` sum to one
 * @param out       xyz a point; may not be `positions`
 */
export function skinPoints(
  bones: Jointed,
  world: WorldPose,
  positions: ArrayLike<number>,
  joints: ArrayLike<number>,
  weights: ArrayLike<number>,
  out: Float32Array = new Float32Array(positions.length),
): Float32Array {
  const { turns, joints: places } = world
  out.fill(0)
  for (let i = 0, p = 0; i < weights.length; i++) {
    const w = weights[i]!
    if (w !== 0) {
      const b = joints[i]!
      const at = bones[b]!.at
      rotate(turns, b * 4, positions[p]! - at[0]!, positions[p + 1]! - at[1]!, positions[p + 2]! - at[2]!, turned, 0)
      out[p]! += w * (turned[0]! + places[b * 3]!)
      out[p + 1]! += w * (turned[1]! + places[b * 3 + 1]!)
      out[p + 2]! += w * (turned[2]! + places[b * 3 + 2]!)
    }
    if ((i & 3) === 3) p += 3
  }
  return out
}
