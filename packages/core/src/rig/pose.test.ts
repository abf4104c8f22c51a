import { Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { solveTwoBones } from './inverseKinematics.ts'
import { bonesOf, createWorldPose, restPose, skinPoints, solveForward } from './Pose.ts'

/** A root with a chain of three and a branch of two. */
const BONES = [
  { parent: -1, at: [0, 1, 0] },
  { parent: 0, at: [0, 1.4, 0.1] },
  { parent: 1, at: [0.1, 1.8, 0] },
  { parent: 2, at: [0.1, 2.1, 0.2] },
  { parent: 0, at: [0.3, 0.8, 0] },
  { parent: 4, at: [0.6, 0.7, -0.1] },
]

function posed() {
  const pose = restPose(BONES)
  BONES.forEach((_, b) => {
    const axis = new Vector3(Math.sin(b), Math.cos(2 * b), 0.3 + b).normalize()
    new Quaternion().setFromAxisAngle(axis, 0.3 + 0.2 * b).toArray(pose.turns, b * 4)
  })
  pose.root = [0.2, 1.1, -0.3]
  return pose
}

/** By matrices of the whole way down, as glTF has it. */
function matrixOf(bone: number, pose: ReturnType<typeof posed>): Matrix4 {
  const { parent, at } = BONES[bone]!
  const turn = new Quaternion().fromArray(pose.turns, bone * 4)
  const from = parent < 0 ? new Vector3(...pose.root) : new Vector3(...at).sub(new Vector3(...BONES[parent]!.at))
  const own = new Matrix4().compose(from, turn, new Vector3(1, 1, 1))
  return parent < 0 ? own : matrixOf(parent, pose).multiply(own)
}

describe('a posed skeleton', () => {
  it('carries points by all four of their bones', () => {
    const pose = posed()
    const world = solveForward(BONES, pose, createWorldPose(BONES))
    const positions = [0.4, 1.2, 0.3, -0.2, 2, 0.1, 0.05, 0.9, -0.4]
    const joints = [1, 2, 3, 5, 0, 4, 2, 1, 3, 3, 0, 5]
    const weights = [0.4, 0.3, 0.2, 0.1, 0.25, 0.25, 0.25, 0.25, 1, 0, 0, 0]
    const found = skinPoints(BONES, world, positions, joints, weights)
    for (let p = 0; p < 3; p++) {
      const expected = new Vector3()
      for (let i = p * 4; i < p * 4 + 4; i++) {
        const local = new Vector3(...positions.slice(p * 3, p * 3 + 3)).sub(new Vector3(...BONES[joints[i]!]!.at))
        expected.addScaledVector(local.applyMatrix4(matrixOf(joints[i]!, pose)), weights[i]!)
      }
      // 32 bits hold seven digits
      expected.toArray().forEach((v, k) => expect(found[p * 3 + k]).toBeCloseTo(v, 5))
    }
  })

  it('is worked out for the bones alone that are asked for, and what they hang on', () => {
    const skins = [{ joints: [5, 3, 0, 0], weights: [1, 0, 0, 0] }]
    const only = bonesOf(BONES, skins)
    expect(only).toEqual([0, 4, 5])
    expect(bonesOf(BONES, [...skins, { joints: [2, 0, 0, 0], weights: [0.5, 0.5, 0, 0] }])).toEqual([0, 1, 2, 4, 5])
    const whole = solveForward(BONES, posed(), createWorldPose(BONES))
    const part = solveForward(BONES, posed(), createWorldPose(BONES), only)
    for (const b of only) {
      expect([...part.joints.subarray(b * 3, b * 3 + 3)]).toEqual([...whole.joints.subarray(b * 3, b * 3 + 3)])
      expect([...part.turns.subarray(b * 4, b * 4 + 4)]).toEqual([...whole.turns.subarray(b * 4, b * 4 + 4)])
    }
    expect([...part.joints.subarray(3, 6)]).toEqual([0, 0, 0])
  })
})

describe('two bones', () => {
  it('reach where they are sent, straight up and down too, with the middle joint along the limb', () => {
    const socket = new Vector3(0, 1, 0)
    for (const [way, pole] of [
      [new Vector3(0, -0.7, 0), new Vector3(0, 0, 1)],
      [new Vector3(0, 0.7, 0), new Vector3(0, 0, 1)],
      // no pole that stands across: any will do, and it must still reach
      [new Vector3(0, -0.7, 0), new Vector3(0, 1, 0)],
      [new Vector3(0.3, -0.4, 0.2), new Vector3(1, 0, 1)],
    ] as const) {
      const limb = {
        upper: new Vector3(0, -0.45, 0.02),
        lower: new Vector3(0, -0.4, -0.02),
        pole: new Vector3(0, 0, 1),
        bend: [0.06, 2.75] as const,
      }
      const target = socket.clone().add(way)
      const { upper, lower } = solveTwoBones(limb, socket, target, pole)
      for (const turn of [upper, lower]) expect(turn.length()).toBeCloseTo(1, 6)
      const middle = limb.upper.clone().applyQuaternion(upper).add(socket)
      const end = limb.lower.clone().applyQuaternion(lower).add(middle)
      expect(end.distanceTo(target)).toBeLessThan(1e-6)
      // by the law of cosines alone
      const [a, b, d] = [limb.upper.length(), limb.lower.length(), way.length()]
      expect(middle.distanceTo(target)).toBeCloseTo(b, 6)
      expect(middle.distanceTo(socket)).toBeCloseTo(a, 6)
      expect(middle.clone().sub(socket).dot(way) / d).toBeCloseTo((a * a + d * d - b * b) / (2 * d), 6)
    }
  })
})
