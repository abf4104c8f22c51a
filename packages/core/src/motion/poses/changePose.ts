import { Quaternion, Vector3 } from 'three'
import { createWorldPose, restPose, skinPoints, solveForward, type Pose } from '../../rig/Pose.ts'
import { shareTwists } from '../../rig/twist.ts'
import { mirroredTurn } from '../../rig/turns.ts'
import type { Clip } from '../Clip.ts'
import { clipOf } from '../clipOf.ts'
import type { Skin } from '../soles.ts'
import type { Posable, PoseRig } from './PoseRig.ts'

const turnOf = (pose: Pose, bone: number) => new Quaternion().fromArray(pose.turns, bone * 4)

/** Left and right exchanged. */
export function mirrorPose({ mates, bones }: Pick<PoseRig, 'mates' | 'bones'>, pose: Pose): Pose {
  const out = restPose(bones)
  bones.forEach((_, i) => mirroredTurn(turnOf(pose, i)).toArray(out.turns, mates[i]! * 4))
  // about the figure's own middle
  const middle = bones[0]!.at[0]
  out.root = [2 * middle - pose.root[0], pose.root[1], pose.root[2]]
  shareTwists(bones, out)
  return out
}

/** Both sides as one of them is; what lies in the middle as much to the one side as to the other: straight. */
export function evenPose(rig: Pick<PoseRig, 'mates' | 'bones' | 'pairs'>, pose: Pose, like: 'left' | 'right'): Pose {
  const mirrored = mirrorPose(rig, pose)
  const out = blendPoses(rig.bones, pose, mirrored, 0.5)
  for (const pair of rig.pairs) {
    const [from, to] = like === 'left' ? [pair.left, pair.right] : [pair.right, pair.left]
    out.turns.set(pose.turns.subarray(from * 4, from * 4 + 4), from * 4)
    out.turns.set(mirrored.turns.subarray(to * 4, to * 4 + 4), to * 4)
  }
  shareTwists(rig.bones, out)
  return out
}

/** From one pose to another, 0 to 1: every joint by the shortest way, the root by a line. */
export function blendPoses(bones: Posable['bones'], from: Pose, to: Pose, share: number): Pose {
  const out = restPose(bones)
  bones.forEach((_, i) =>
    turnOf(from, i)
      .slerp(turnOf(to, i), share)
      .toArray(out.turns, i * 4),
  )
  out.root = from.root.map((v, k) => v + (to.root[k]! - v) * share) as Pose['root']
  shareTwists(bones, out)
  return out
}

/** How far above the ground the lowest point of a figure is in a pose, metres; below it where it is less than nothing. */
export function lowestIn(bones: Posable['bones'], { positions, joints, weights }: Skin, pose: Pose): number {
  const posed = skinPoints(bones, solveForward(bones, pose, createWorldPose(bones)), positions, joints, weights)
  let least = Infinity
  for (let i = 1; i < posed.length; i += 3) least = Math.min(least, posed[i]!)
  return Number.isFinite(least) ? least : 0
}

/** The same pose, its lowest point on the ground. */
export function setDown(bones: Posable['bones'], skin: Skin, pose: Pose): Pose {
  const [x, y, z] = pose.root
  return { turns: pose.turns, root: [x, y - lowestIn(bones, skin, pose), z] }
}

/** So far below the horizon arms point, degrees, by what such a pose is called in the trade. */
export const ARMS_AT = { t: 0, a: 45, hanging: 80 } as const
export type ArmsAt = keyof typeof ARMS_AT

/** At rest but for the arms, which are straight and point to the sides; null where there are none. */
export function armsPose({ bones, jointed, limbs }: PoseRig, at: ArmsAt): Pose | null {
  const below = (ARMS_AT[at] * Math.PI) / 180
  const arms = jointed.filter((l, i) => l && limbs[i]!.kind === 'arm')
  if (arms.length === 0) return null
  const pose = restPose(bones)
  for (const arm of arms) {
    const { upper, lower, end } = arm!
    const joint = (bone: number) => new Vector3(...bones[bone]!.at)
    const tip = end >= 0 ? joint(end) : new Vector3(...bones[lower]!.tail)
    const side = Math.sign(joint(lower).x - joint(upper).x) || 1
    const way = new Vector3(side * Math.cos(below), -Math.sin(below), 0)
    const first = new Quaternion().setFromUnitVectors(joint(lower).sub(joint(upper)).normalize(), way)
    const beyond = tip.sub(joint(lower)).normalize().applyQuaternion(first)
    const second = new Quaternion().setFromUnitVectors(beyond, way)
    const reached = second.multiply(first)
    first.toArray(pose.turns, upper * 4)
    first
      .invert()
      .multiply(reached)
      .toArray(pose.turns, lower * 4)
    const knuckles = end >= 0 ? knucklesOf({ bones, limbs }, end) : null
    if (!knuckles) continue
    const palm = knuckles.sub(joint(end)).normalize().applyQuaternion(reached)
    const third = new Quaternion().setFromUnitVectors(palm, way).multiply(reached)
    reached
      .invert()
      .multiply(third)
      .toArray(pose.turns, end * 4)
  }
  shareTwists(bones, pose)
  return pose
}

/** The middle of where digits begin on a hand, at rest; null where it has none. */
function knucklesOf({ bones, limbs }: Pick<Posable, 'bones' | 'limbs'>, hand: number): Vector3 | null {
  const first = limbs.flatMap((l) => (l.kind === 'digit' ? (bones.find((b) => b.name === l.bones[0]) ?? []) : []))
  const own = first.filter((bone) => bone.parent === hand)
  if (own.length === 0) return null
  return own.reduce((sum, { at }) => sum.add(new Vector3(...at)), new Vector3()).divideScalar(own.length)
}

/** A pose that is held, as a clip: what shows clips shows it. */
export function heldClip(bones: Posable['bones'], pose: Pose, id = 'pose', name = 'Pose'): Clip {
  return clipOf({ id, name, duration: 1, loop: false, travel: 0 }, bones, [{ pose }, { pose }])
}
