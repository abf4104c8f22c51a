import type { Vector3 } from 'three'
import type { Skeleton } from '../../rig/Skeleton.ts'
import { moveHand } from '../moveHand.ts'
import type { Moment } from '../plantFeet.ts'
import { smoothstep, worldJoint } from '../step.ts'

/** Hands nearer than the first are together, farther than the second each goes its own way; of the figure's height. */
const TOGETHER = [0.16, 0.3] as const
/** Arms cannot always reach: each round halves what is lacking. */
const ROUNDS = 3

/** Brings hands that were near each other as near here, both by half. Changes the moments' poses. */
export function keepHandsTogether(
  skeleton: Skeleton,
  moments: Moment[],
  hands: readonly { way: Vector3; share: number }[] | null,
  loop: boolean,
): void {
  const arms = skeleton.limbs
    .filter((l) => l.kind === 'arm' && l.bones.length > 2)
    .map((l) => l.bones.slice(0, 3).map((name) => skeleton.bones.findIndex((b) => b.name === name)))
  if (!hands || arms.length !== 2) return
  const [left, right] = arms as [[number, number, number], [number, number, number]]
  const last = loop ? moments.length - 1 : moments.length
  for (let m = 0; m < last; m++) {
    const { way, share } = hands[m]!
    const weight = 1 - smoothstep((share - TOGETHER[0]) / (TOGETHER[1] - TOGETHER[0]))
    if (weight === 0) continue
    const { pose } = moments[m]!
    // each round asks for less and less of what is still lacking, and a weight below one for a part of it only
    const lack = way.clone().sub(gap())
    const wanted = gap().addScaledVector(lack, weight)
    for (let round = 0; round < ROUNDS; round++) {
      const half = wanted.clone().sub(gap()).multiplyScalar(0.5)
      if (half.length() < 1e-4) break
      moveHand(skeleton, pose, left, half)
      moveHand(skeleton, pose, right, half.negate())
    }
    function gap(): Vector3 {
      return worldJoint(skeleton, pose, left[2]).sub(worldJoint(skeleton, pose, right[2]))
    }
  }
  if (loop) moments[last]!.pose.turns.set(moments[0]!.pose.turns)
}
