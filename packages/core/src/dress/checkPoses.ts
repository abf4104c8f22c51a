import { Matrix4, Quaternion, Euler, Vector3 } from 'three'
import type { PreparedBody } from '../body/PreparedBody.ts'

/** One matrix a bone that takes the rest pose to a pose; column-major. */
export type Pose = readonly Matrix4[]

/** Turns about the joint, radians about the world's x, y, z in the rest pose, by bone. */
type Turns = Record<string, readonly [number, number, number]>

/** The poses in which covered must mean covered: at rest, arms down, a long stride with arms swinging. */
const POSES: readonly Turns[] = [
  {},
  { leftUpperArm: [0, 0, -0.6], rightUpperArm: [0, 0, 0.6] },
  {
    leftUpperLeg: [-0.7, 0, 0],
    rightUpperLeg: [0.5, 0, 0],
    leftLowerLeg: [0.3, 0, 0],
    rightLowerLeg: [0.6, 0, 0],
    leftUpperArm: [0.5, 0, -0.3],
    rightUpperArm: [-0.6, 0, 0.3],
    leftLowerArm: [-0.6, 0, 0],
    rightLowerArm: [-0.6, 0, 0],
    spine: [0.12, 0.15, 0],
    head: [0, 0.3, 0],
  },
]

const ready = new WeakMap<PreparedBody, Pose[]>()

/** The check poses of a body, the rest pose first. */
export function checkPoses(body: PreparedBody): Pose[] {
  let poses = ready.get(body)
  if (!poses) ready.set(body, (poses = POSES.map((turns) => poseOf(body, turns))))
  return poses
}

function poseOf(body: PreparedBody, turns: Turns): Pose {
  const { bones } = body.model
  const out: Matrix4[] = []
  bones.forEach((bone, i) => {
    const at = new Vector3().fromArray(body.landmarks, body.landmarkIndex.get(bone.name)! * 3)
    const turn = new Quaternion().setFromEuler(new Euler(...(turns[bone.name] ?? [0, 0, 0])))
    const local = new Matrix4()
      .makeTranslation(at)
      .multiply(new Matrix4().makeRotationFromQuaternion(turn))
      .multiply(new Matrix4().makeTranslation(at.clone().negate()))
    const parent = bones.findIndex((b) => b.name === bone.parent)
    out[i] = parent >= 0 ? out[parent]!.clone().multiply(local) : local
  })
  return out
}

/** Linear-blend skinning of points into a pose; returns new positions. */
export function poseLayer(
  pose: Pose,
  positions: Float32Array,
  joints: Uint8Array,
  weights: Float32Array,
): Float32Array {
  const out = new Float32Array(positions.length)
  for (let p = 0; p < positions.length / 3; p++) {
    const x = positions[p * 3]!
    const y = positions[p * 3 + 1]!
    const z = positions[p * 3 + 2]!
    for (let j = 0; j < 4; j++) {
      const w = weights[p * 4 + j]!
      if (w === 0) continue
      const m = pose[joints[p * 4 + j]!]!.elements
      out[p * 3]! += w * (m[0]! * x + m[4]! * y + m[8]! * z + m[12]!)
      out[p * 3 + 1]! += w * (m[1]! * x + m[5]! * y + m[9]! * z + m[13]!)
      out[p * 3 + 2]! += w * (m[2]! * x + m[6]! * y + m[10]! * z + m[14]!)
    }
  }
  return out
}
