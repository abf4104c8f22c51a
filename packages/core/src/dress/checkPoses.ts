import type { PreparedBody } from '../body/PreparedBody.ts'
import { restBones } from '../body/PreparedBody.ts'
import type { PartBone } from '../kit/Kit.ts'
import { createWorldPose, poseOfTurns, skinPoints, solveForward, type WorldPose } from '../rig/Pose.ts'

/** Bones of a body at rest, those of a part after them, and where they are in every checked pose. */
export interface CheckedRig {
  bones: { name: string; parent: number; at: [number, number, number] }[]
  /** The rest pose first, then those of the body's plan. */
  poses: WorldPose[]
}

const ready = new WeakMap<PreparedBody, CheckedRig>()

/** The poses in which clothes must hold, for a body and the bones of a part on it. */
export function checkPoses(body: PreparedBody, partBones: readonly PartBone[] = []): CheckedRig {
  if (partBones.length) return poseAll(body, partBones)
  let rig = ready.get(body)
  if (!rig) ready.set(body, (rig = poseAll(body, [])))
  return rig
}

/** How many poses are checked: that of rest and the plan's. */
export function poseCount(body: PreparedBody): number {
  return 1 + body.model.plan.poses.length
}

function poseAll(body: PreparedBody, partBones: readonly PartBone[]): CheckedRig {
  const bones = [...restBones(body)]
  for (const { name, parent, at } of partBones)
    bones.push({ name, parent: bones.findLastIndex((b) => b.name === parent), at })
  const poses = [{}, ...body.model.plan.poses.map((p) => p.turns)].map((turns) =>
    solveForward(bones, poseOfTurns(bones, turns), createWorldPose(bones)),
  )
  return { bones, poses }
}

/** Points in one of the checked poses. At rest they are where they are, to the last bit: nothing hangs on how weights round. */
export function poseLayer(
  { bones, poses }: CheckedRig,
  pose: number,
  positions: Float32Array,
  joints: Uint16Array,
  weights: Float32Array,
): Float32Array {
  return pose === 0 ? positions : skinPoints(bones, poses[pose]!, positions, joints, weights)
}
