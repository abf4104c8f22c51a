import { Quaternion, Vector3 } from 'three'
import { placeMiddle, USUAL_BEND } from '../rig/inverseKinematics.ts'
import type { Pose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { setTurn, worldJoint, worldTurn } from './step.ts'

const BACK = new Vector3(0, 0, -1)

/**
 * Moves a hand, metres in the world: the elbow bends and goes on pointing where it points, the hand keeps its turn.
 *
 * @param lean which way the elbow is to point besides, one metre for as much as it does by itself
 */
export function moveHand(
  skeleton: Skeleton,
  pose: Pose,
  arm: readonly [upper: number, lower: number, hand: number],
  by: Vector3,
  lean: Vector3 | null = null,
): void {
  const [upper, lower, hand] = arm
  const [shoulder, elbow, wrist] = arm.map((b) => worldJoint(skeleton, pose, b)) as [Vector3, Vector3, Vector3]
  const [above, turnUpper, turnLower, turnHand] = [skeleton.bones[upper]!.parent, ...arm].map((b) =>
    worldTurn(skeleton, pose, b),
  ) as [Quaternion, Quaternion, Quaternion, Quaternion]
  const target = wrist.clone().add(by)
  // of a straight arm backward
  const along = wrist.clone().sub(shoulder).normalize()
  const out = elbow.clone().sub(shoulder)
  out.addScaledVector(along, -out.dot(along))
  const lengths: [number, number] = [elbow.distanceTo(shoulder), wrist.distanceTo(elbow)]
  const pole = out.length() > 0.02 * (lengths[0] + lengths[1]) ? out : BACK.clone()
  if (lean) pole.normalize().add(lean)
  const { middle, end } = placeMiddle(lengths, shoulder, target, pole, USUAL_BEND)
  // least turns from where the bones are, so that neither twists
  const follow = (turn: Quaternion, from: Vector3, to: Vector3) =>
    new Quaternion().setFromUnitVectors(from.normalize(), to.normalize()).multiply(turn)
  const nextUpper = follow(turnUpper, elbow.clone().sub(shoulder), middle.clone().sub(shoulder))
  const nextLower = follow(turnLower, wrist.clone().sub(elbow), end.clone().sub(middle))
  setTurn(pose, upper, above.invert().multiply(nextUpper))
  setTurn(pose, lower, nextUpper.clone().invert().multiply(nextLower))
  setTurn(pose, hand, nextLower.clone().invert().multiply(turnHand))
}
