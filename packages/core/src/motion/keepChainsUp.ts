import { Quaternion, Vector3 } from 'three'
import { createWorldPose, solveForward } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { easeUp } from './easeUp.ts'
import type { Moment } from './plantFeet.ts'
import { lowestPoint, poseSole, type Sole } from './soles.ts'
import { turnInWorld } from './step.ts'

/** Of a figure that goes along, chains are kept so far from the ground that they do not scrape, metres. */
const CLEAR = 0.012
const ROUNDS = 3

/**
 * Lifts chains that trail through the ground (a tail on the floor): their first bone turns up, about
 * the axis across the way to the lowest point, evenly over time. Of a figure that stands they may lie
 * on the ground. Changes the moments' poses.
 *
 * @param soles points by limb; those of legs and arms are left alone
 */
export function keepChainsUp(
  skeleton: Skeleton,
  soles: readonly Sole[],
  moments: Moment[],
  loop: boolean,
  goes: boolean,
): void {
  const least = goes ? CLEAR : 0
  const { bones, limbs } = skeleton
  const last = loop ? moments.length - 1 : moments.length
  const world = createWorldPose(bones)
  for (const sole of soles) {
    const limb = limbs.find((l) => l.id === sole.limb)
    if (!limb || limb.kind === 'leg' || limb.kind === 'arm' || sole.positions.length === 0 || last < 1) continue
    const first = bones.findIndex((b) => b.name === limb.bones[0])
    const posed = new Float32Array(sole.positions.length)
    for (let round = 0; round < ROUNDS; round++) {
      const ways: Vector3[] = []
      const angles = moments.slice(0, last).map(({ pose }) => {
        poseSole(skeleton, solveForward(bones, pose, world), sole, posed)
        const lowest = lowestPoint(posed)
        const root = new Vector3().fromArray(world.joints, first * 3)
        const way = new Vector3().fromArray(posed, lowest).sub(root)
        ways.push(way)
        const depth = least - posed[lowest + 1]!
        return depth > 0 ? Math.asin(Math.min(0.5, depth / Math.max(1e-3, Math.hypot(way.x, way.z)))) : 0
      })
      if (angles.every((a) => a === 0)) break
      const eased = easeUp(angles, loop)
      for (let m = 0; m < last; m++) {
        const { pose } = moments[m]!
        const way = ways[m]!
        // across the way, so that turning by it goes up
        const axis = new Vector3(-way.z, 0, way.x)
        if (axis.length() < 1e-4) axis.set(1, 0, 0)
        axis.normalize()
        turnInWorld(skeleton, pose, first, new Quaternion().setFromAxisAngle(axis, eased[m]!))
      }
    }
  }
  if (loop && last > 0) moments[last]!.pose.turns.set(moments[0]!.pose.turns)
}
