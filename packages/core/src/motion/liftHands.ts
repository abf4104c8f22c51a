import { Vector3 } from 'three'
import { createWorldPose, solveForward } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { easeUp } from './easeUp.ts'
import { moveHand } from './moveHand.ts'
import type { Moment } from './plantFeet.ts'
import { lowestOf, poseSole, farthestFrom, type Sole } from './soles.ts'

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
    const reach = farthestFrom(sole, bones)
    const lacks = moments.slice(0, last).map(({ pose }) => {
      solveForward(bones, pose, world)
      // most hands hang far above the ground
      if (reach.every(([bone, far]) => world.joints[bone * 3 + 1]! > far)) return 0
      poseSole(skeleton, world, sole, posed)
      return Math.max(0, -lowestOf(posed))
    })
    if (lacks.every((v) => v === 0)) continue
    easeUp(lacks, loop).forEach((by, m) => {
      if (by > 0) moveHand(skeleton, moments[m]!.pose, [upper, lower, hand], new Vector3(0, by, 0))
    })
    if (loop) moments[last]!.pose.turns.set(moments[0]!.pose.turns)
  }
}
