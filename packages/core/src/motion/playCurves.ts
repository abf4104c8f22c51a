import { Quaternion, Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'
import { restPose, type Pose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { radians, type Channels } from './curves.ts'
import type { Leg } from './Leg.ts'
import { legLength } from './Leg.ts'
import { placeFoot, stepOf } from './step.ts'

const X = new Vector3(1, 0, 0)
const Y = new Vector3(0, 1, 0)
const Z = new Vector3(0, 0, 1)

/**
 * The pose a clip's curves ask for at a phase: the root's way, turns of bones, pairs and chains,
 * arms, and feet where they step. Lengths are in leg lengths, turns in degrees.
 */
export function playCurves(
  clip: ClipDef,
  curves: Channels,
  skeleton: Skeleton,
  legs: readonly Leg[],
  phase: number,
): Pose {
  const { bones, limbs, pairs } = skeleton
  const unit = legLength(legs, skeleton)
  const pose = restPose(bones)
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const set = (bone: number | undefined, q: Quaternion | null) => {
    if (bone !== undefined && q) q.toArray(pose.turns, bone * 4)
  }
  const paired = new Set(pairs.flatMap(({ left, right }) => [left, right]))
  const chained = new Set(limbs.flatMap((limb) => limb.bones.map((b) => index.get(b)!)))
  const later = (side: number) => (clip.alternate && side < 0 ? phase + 0.5 : phase)

  // bones by themselves, the root first: it also goes its way
  bones.forEach((bone, i) => {
    if (!paired.has(i) && !chained.has(i)) set(i, turnOf(curves, bone.name, phase, 1))
  })
  const root = bones[0]!.name
  pose.root = pose.root.map((v, k) => v + curves.at(`${root}.${'xyz'[k]!}`, phase) * unit) as Pose['root']
  for (const { id, left, right } of pairs) {
    if (chained.has(left)) continue
    set(left, turnOf(curves, id, phase, 1))
    set(right, turnOf(curves, id, later(-1), -1))
  }
  for (const limb of limbs) {
    const side = limb.side === 'right' ? -1 : 1
    if (limb.kind === 'arm') poseArm(limb, skeleton, index, curves, side, later(side), set)
    else if (limb.kind === 'digit') {
      // digits curl towards the palm, which faces the body
      const fold = new Quaternion().setFromAxisAngle(
        Z,
        radians(-side * curves.at(`${limb.channels[0]}.curl`, later(side))),
      )
      for (const bone of limb.bones) set(index.get(bone), fold)
    } else if (limb.kind !== 'leg')
      limb.bones.forEach((bone, i) => {
        // a wave runs down the chain
        const own = later(side) - (i + 1) * (limb.lag ?? 0)
        set(index.get(bone), turnOf(curves, limb.channels[i] ?? limb.channels[0]!, own, limb.side ? side : 1))
      })
  }
  for (const leg of legs) placeFoot(leg, skeleton, stepOf(clip, leg, curves, phase, unit), pose)
  return pose
}

/** The turn a channel asks for; null where nothing is said of it. */
function turnOf(curves: Channels, channel: string, phase: number, mirror: 1 | -1): Quaternion | null {
  if (!curves.drive(channel)) return null
  return new Quaternion()
    .setFromAxisAngle(Y, radians(mirror * curves.at(`${channel}.yaw`, phase)))
    .multiply(new Quaternion().setFromAxisAngle(X, radians(curves.at(`${channel}.pitch`, phase))))
    .multiply(new Quaternion().setFromAxisAngle(Z, radians(mirror * curves.at(`${channel}.roll`, phase))))
}

/** An arm hangs down, turned out, swung and bent at the elbow, whatever it does at rest. */
function poseArm(
  limb: Skeleton['limbs'][number],
  { bones }: Skeleton,
  index: ReadonlyMap<string, number>,
  curves: Channels,
  mirror: 1 | -1,
  phase: number,
  set: (bone: number | undefined, q: Quaternion | null) => void,
): void {
  const [upper, lower, hand] = limb.bones.map((b) => index.get(b))
  const [upperArm, lowerArm, handName] = limb.channels as [string, string, string?]
  if (upper === undefined || lower === undefined) return
  const rest = new Vector3(...bones[lower]!.at).sub(new Vector3(...bones[upper]!.at)).normalize()
  const out = radians(curves.at(`${upperArm}.out`, phase))
  const hang = new Vector3(mirror * Math.sin(out), -Math.cos(out), 0)
  const down = new Quaternion().setFromUnitVectors(rest, hang)
  const swing = new Quaternion().setFromAxisAngle(X, radians(-curves.at(`${upperArm}.swing`, phase)))
  const twist = new Quaternion().setFromAxisAngle(hang.clone(), radians(mirror * curves.at(`${upperArm}.twist`, phase)))
  set(upper, swing.multiply(down).multiply(twist))
  // the elbow bends forward about the axis across the hanging arm, seen in the arm's own rest frame
  const across = X.clone().applyQuaternion(down.clone().invert())
  set(lower, new Quaternion().setFromAxisAngle(across, radians(-curves.at(`${lowerArm}.bend`, phase))))
  if (handName) set(hand, new Quaternion().setFromAxisAngle(across, radians(-curves.at(`${handName}.bend`, phase))))
}
