import { Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'
import type { Pose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { moveHand } from './moveHand.ts'
import type { Moment } from './plantFeet.ts'
import { worldJoint, worldTurn } from './step.ts'

/** The arm of a figure, by its bones. */
type Arm = readonly [upper: number, lower: number, hand: number]

/** Where on a hand what it holds lies, as a share of the way from the wrist to the knuckles. */
const PALM = 0.6
/** How strongly elbows are led out of the trunk, to what they do by themselves. */
const ELBOW = 1.2

/**
 * Brings hands to what they hold, which is not in the file: a thing in both hands stays as large as it is; a
 * rope or a rail goes through every hand that is on it. Where these are follows from the figure itself: they lie
 * where its hands are in the mean of the clip. Changes the moments' poses; a hand that cannot reach comes as near as it can.
 */
export function keepGrip(
  grip: NonNullable<ClipDef['grip']>,
  skeleton: Skeleton,
  moments: Moment[],
  loop: boolean,
): void {
  const arms = skeleton.limbs
    .filter((l) => l.kind === 'arm' && l.bones.length > 2)
    .map((l) => l.bones.slice(0, 3).map((name) => skeleton.bones.findIndex((b) => b.name === name)) as unknown as Arm)
    .filter((arm) => arm.every((b) => b >= 0))
  const last = loop ? moments.length - 1 : moments.length
  const poses = moments.slice(0, last).map((m) => m.pose)
  if (poses.length === 0) return
  if (grip.kind === 'thing') holdThing(skeleton, arms, poses)
  else holdLine(skeleton, grip.each ? arms.map((arm) => [arm]) : [arms], poses, new Vector3(...grip.along).normalize())
  if (loop) moments[last]!.pose.turns.set(moments[0]!.pose.turns)
}

/** Two hands as far from each other, and that way, as in the mean: seen from what both arms hang from. */
function holdThing(skeleton: Skeleton, arms: readonly Arm[], poses: readonly Pose[]): void {
  if (arms.length !== 2) return
  const [one, other] = arms as [Arm, Arm]
  const chest = bearerOf(skeleton, one, other)
  const gap = (pose: Pose) => palm(skeleton, pose, one).sub(palm(skeleton, pose, other))
  const frame = (pose: Pose) => worldTurn(skeleton, pose, chest)
  const mean = meanOf(poses.map((pose) => gap(pose).applyQuaternion(frame(pose).invert())))
  for (const pose of poses) {
    const half = mean.clone().applyQuaternion(frame(pose)).sub(gap(pose)).multiplyScalar(0.5)
    moveHand(skeleton, pose, one, half)
    moveHand(skeleton, pose, other, half.clone().negate())
  }
}

/** Hands on a line of a direction that goes through the mean of where they are. */
function holdLine(
  skeleton: Skeleton,
  groups: readonly (readonly Arm[])[],
  poses: readonly Pose[],
  along: Vector3,
): void {
  for (const arms of groups) {
    if (arms.length === 0) continue
    const middle = meanOf(poses.flatMap((pose) => arms.map((arm) => palm(skeleton, pose, arm))))
    for (const pose of poses)
      for (const arm of arms) {
        const off = middle.clone().sub(palm(skeleton, pose, arm))
        moveHand(skeleton, pose, arm, off.addScaledVector(along, -off.dot(along)), outward(skeleton, pose, arm))
      }
  }
}

/** Away from the trunk, level: elbows that hands are drawn in from stay out of it. */
function outward(skeleton: Skeleton, pose: Pose, [upper]: Arm): Vector3 {
  const side = Math.sign(skeleton.bones[upper]!.at[0])
  const turn = worldTurn(skeleton, pose, skeleton.bones[upper]!.parent)
  const out = new Vector3(side, 0, 0).applyQuaternion(turn).setY(0)
  return out.setLength(ELBOW)
}

function palm(skeleton: Skeleton, pose: Pose, [, , hand]: Arm): Vector3 {
  const { at, tail } = skeleton.bones[hand]!
  const fingers = skeleton.bones.filter((b) => b.parent === hand).map((b) => new Vector3(...b.at))
  const knuckles = fingers.length ? meanOf(fingers) : new Vector3(...tail)
  const reach = knuckles.sub(new Vector3(...at)).multiplyScalar(PALM)
  return reach.applyQuaternion(worldTurn(skeleton, pose, hand)).add(worldJoint(skeleton, pose, hand))
}

/** The bone from which both arms hang. */
function bearerOf({ bones }: Skeleton, one: Arm, other: Arm): number {
  const above = (bone: number) => {
    const all: number[] = []
    for (let b = bones[bone]!.parent; b >= 0; b = bones[b]!.parent) all.push(b)
    return all
  }
  const others = new Set(above(other[0]))
  return above(one[0]).find((b) => others.has(b)) ?? 0
}

function meanOf(all: readonly Vector3[]): Vector3 {
  const sum = new Vector3()
  for (const v of all) sum.add(v)
  return sum.divideScalar(all.length)
}
