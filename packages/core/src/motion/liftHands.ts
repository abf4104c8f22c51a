import { Quaternion, Vector3 } from 'three'
import { placeMiddle, USUAL_BEND } from '../rig/inverseKinematics.ts'
import { createWorldPose, solveForward } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { easeUp } from './easeUp.ts'
import type { Moment } from './plantFeet.ts'
import { lowestOf, poseSole, type Sole } from './soles.ts'
import { worldJoint, worldTurn } from './step.ts'

const BACK = new Vector3(0, 0, -1)

/**
 * Raises hands whose load goes through the ground (an oar in a long arm), evenly over time: the
 * elbow bends, the hand keeps its turn. Changes the moments' poses.
 *
 * @param soles points by limb; those of arms count here
 */
export function liftHands(skeleton: Skeleton, soles: readonly Sole[], moments: Moment[], loop: boolean): void {
  const { bones, limbs } = skeleton
  const last = loop ? moments.length - 1 : moments.length
  const world = createWorldPose(bones)
  for (const sole of soles) {
    const limb = limbs.find((l) => l.id === sole.limb && l.kind === 'arm' && l.bones.length > 2)
    if (!limb || sole.positions.length === 0 || last < 1) continue
    const [upper, lower, hand] = limb.bones.map((name) => bones.findIndex((b) => b.name === name)) as [
      number,
      number,
      number,
    ]
    const posed = new Float32Array(sole.positions.length)
    const reach = reachOf(sole, bones)
    const lacks = moments.slice(0, last).map(({ pose }) => {
      solveForward(bones, pose, world)
      // most hands hang far above the ground
      if (reach.every(([bone, far]) => world.joints[bone * 3 + 1]! > far)) return 0
      poseSole(skeleton, world, sole, posed)
      return Math.max(0, -lowestOf(posed))
    })
    if (lacks.every((v) => v === 0)) continue
    easeUp(lacks, loop).forEach((by, m) => {
      if (by > 0) raise(skeleton, moments[m]!, [upper, lower, hand], by)
    })
    if (loop) moments[last]!.pose.turns.set(moments[0]!.pose.turns)
  }
}

/** By bone, how far from its joint a sole's points lie at most, metres; in any pose. */
function reachOf({ positions, joints, weights }: Sole, bones: Skeleton['bones']): [bone: number, far: number][] {
  const reach = new Map<number, number>()
  for (let i = 0; i < weights.length; i++) {
    if (weights[i] === 0) continue
    const [p, at] = [(i >> 2) * 3, bones[joints[i]!]!.at]
    const far = Math.hypot(positions[p]! - at[0], positions[p + 1]! - at[1], positions[p + 2]! - at[2])
    reach.set(joints[i]!, Math.max(far, reach.get(joints[i]!) ?? 0))
  }
  return [...reach]
}

function raise(skeleton: Skeleton, { pose }: Moment, [upper, lower, hand]: [number, number, number], by: number): void {
  const [shoulder, elbow, wrist] = [upper, lower, hand].map((b) => worldJoint(skeleton, pose, b)) as [
    Vector3,
    Vector3,
    Vector3,
  ]
  const [above, turnUpper, turnLower, turnHand] = [skeleton.bones[upper]!.parent, upper, lower, hand].map((b) =>
    worldTurn(skeleton, pose, b),
  ) as [Quaternion, Quaternion, Quaternion, Quaternion]
  const target = wrist.clone()
  target.y += by
  // the elbow goes on pointing where it points; of a straight arm backward
  const along = wrist.clone().sub(shoulder).normalize()
  const out = elbow.clone().sub(shoulder)
  out.addScaledVector(along, -out.dot(along))
  const lengths: [number, number] = [elbow.distanceTo(shoulder), wrist.distanceTo(elbow)]
  const pole = out.length() > 0.02 * (lengths[0] + lengths[1]) ? out : BACK
  const middle = placeMiddle(lengths, shoulder, target, pole, USUAL_BEND)
  // least turns from where the bones are, so that neither twists
  const follow = (turn: Quaternion, from: Vector3, to: Vector3) =>
    new Quaternion().setFromUnitVectors(from.normalize(), to.normalize()).multiply(turn)
  const nextUpper = follow(turnUpper, elbow.clone().sub(shoulder), middle.middle.clone().sub(shoulder))
  const nextLower = follow(turnLower, wrist.clone().sub(elbow), middle.end.clone().sub(middle.middle))
  above
    .clone()
    .invert()
    .multiply(nextUpper)
    .toArray(pose.turns, upper * 4)
  nextUpper
    .clone()
    .invert()
    .multiply(nextLower)
    .toArray(pose.turns, lower * 4)
  nextLower
    .clone()
    .invert()
    .multiply(turnHand)
    .toArray(pose.turns, hand * 4)
}
