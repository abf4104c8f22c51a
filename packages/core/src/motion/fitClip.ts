import { Matrix4, Quaternion, Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { sampleCurve } from './curves.ts'

/** A clip made for one skeleton: every bone's turn at every sample, and the way of the hips. */
export interface FittedClip {
  id: string
  name: string
  duration: number // seconds
  loop: boolean
  times: Float32Array // seconds; length n
  /** Local rotation of each bone, xyzw a sample; length 4n; null where the bone never turns. */
  rotations: (Float32Array | null)[]
  /** Position of the root bone, metres, xyz a sample; length 3n. */
  root: Float32Array
  /** Ground covered in one loop, metres; the clip itself stays on the spot. */
  travel: number
}

const SAMPLES_A_SECOND = 30
const X = new Vector3(1, 0, 0)
const Y = new Vector3(0, 1, 0)
const Z = new Vector3(0, 0, 1)
const degrees = (d: number) => (d * Math.PI) / 180

interface Leg {
  side: 1 | -1
  upper: number
  lower: number
  foot: number
  toes: number
  thigh: Vector3 // hip to knee at rest
  shin: Vector3 // knee to ankle at rest
  ankle: Vector3
  ball: Vector3
  heel: Vector3
}

/**
 * Fits a clip's curves to a skeleton's own proportions. Lengths in curves are in leg lengths, turns
 * in degrees. The feet are placed first, standing ones exactly on the ground and moving back with
 * it; two-bone inverse kinematics (law of cosines) then bends the legs to reach them.
 */
export function fitClip(clip: ClipDef, skeleton: Skeleton): FittedClip {
  const { bones } = skeleton
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const at = (name: string): Vector3 | null => {
    const i = index.get(name)
    return i === undefined ? null : new Vector3(...bones[i]!.at)
  }
  const legs = (
    [
      ['left', 1],
      ['right', -1],
    ] as const
  ).map(([s, side]) => legOf(s, side, index, at))
  const legLength = legs[0] ? legs[0].thigh.length() + legs[0].shin.length() : 1
  const travel = clip.travel * legLength
  const n = Math.round(clip.duration * SAMPLES_A_SECOND) + 1
  const times = Float32Array.from({ length: n }, (_, i) => (i * clip.duration) / (n - 1))
  const turns = bones.map(() => new Float32Array(4 * n))
  const root = new Float32Array(3 * n)
  const curve = (channel: string, phase: number) => {
    const keys = clip.curves[channel]
    return keys ? sampleCurve(keys, phase, clip.loop) : 0
  }
  const euler = (bone: string, phase: number, mirror: 1 | -1 = 1) =>
    new Quaternion()
      .setFromAxisAngle(Y, degrees(mirror * curve(`${bone}.yaw`, phase)))
      .multiply(new Quaternion().setFromAxisAngle(X, degrees(curve(`${bone}.pitch`, phase))))
      .multiply(new Quaternion().setFromAxisAngle(Z, degrees(mirror * curve(`${bone}.roll`, phase))))

  const local = bones.map(() => new Quaternion())
  for (let s = 0; s < n; s++) {
    const phase = s / (n - 1)
    for (const q of local) q.identity()
    const hips = new Vector3(...bones[0]!.at)
    hips.x += curve('hips.x', phase) * legLength
    hips.y += curve('hips.y', phase) * legLength
    hips.z += curve('hips.z', phase) * legLength
    const set = (name: string, q: Quaternion) => {
      const i = index.get(name)
      if (i !== undefined) local[i]!.copy(q)
    }
    for (const name of ['hips', 'spine', 'chest', 'upperChest', 'neck', 'head', 'jaw']) set(name, euler(name, phase))
    for (const [i, bone] of bones.entries())
      if (bone.name.startsWith('tail')) {
        // a wave runs down the tail
        const lag = Number(bone.name.slice(4)) * 0.09
        local[i]!.copy(euler('tail', phase - lag))
      }
    for (const [side, mirror] of [
      ['left', 1],
      ['right', -1],
    ] as const) {
      const own = clip.alternate && mirror < 0 ? phase + 0.5 : phase
      set(`${side}Shoulder`, euler('shoulder', own, mirror))
      poseArm(side, mirror, own)
    }

    // legs: feet first
    legs.forEach((leg) => {
      if (!leg) return
      const own = clip.alternate && leg.side < 0 ? phase + 0.5 : phase
      const place = footPlace(clip, own)
      const pitch = degrees(curve('foot.pitch', own))
      const yaw = degrees(leg.side * curve('foot.yaw', own))
      const foot = new Quaternion().setFromAxisAngle(Y, yaw).multiply(new Quaternion().setFromAxisAngle(X, pitch))
      // turned out about the ball, then tipped about what carries it
      const turnOut = new Quaternion().setFromAxisAngle(Y, yaw)
      const pivot = pitch >= 0 ? leg.ball : leg.heel
      const carried = pivot.clone().sub(leg.ball).applyQuaternion(turnOut).add(leg.ball)
      const ankle = leg.ankle.clone().sub(pivot).applyQuaternion(foot).add(carried)
      ankle.z += place.along * travel
      ankle.x += leg.side * curve('foot.out', own) * legLength
      ankle.y += place.standing ? 0 : Math.max(0, curve('foot.lift', own)) * legLength
      const hipTurn = local[0]!
      const socket = new Vector3(...bones[leg.upper]!.at)
        .sub(new Vector3(...bones[0]!.at))
        .applyQuaternion(hipTurn)
        .add(hips)
      const knees = new Vector3(0, 0, 1).applyAxisAngle(Y, yaw + degrees(leg.side * curve('knee.out', own)))
      const { thigh, shin } = reach(leg, socket, ankle, knees)
      local[leg.upper]!.copy(hipTurn).invert().multiply(thigh)
      local[leg.lower]!.copy(thigh).invert().multiply(shin)
      local[leg.foot]!.copy(shin).invert().multiply(foot)
      // with the heel up, the toes stay flat
      if (leg.toes >= 0 && pitch > 0 && place.standing) local[leg.toes]!.setFromAxisAngle(X, -pitch)
      else if (leg.toes >= 0) local[leg.toes]!.setFromAxisAngle(X, degrees(curve('toes.pitch', own)))
    })
    for (let b = 0; b < bones.length; b++) local[b]!.toArray(turns[b]!, s * 4)
    root.set([hips.x, hips.y, hips.z], s * 3)

    function poseArm(side: 'left' | 'right', mirror: 1 | -1, own: number): void {
      const upper = at(`${side}UpperArm`)
      const lower = at(`${side}LowerArm`)
      if (!upper || !lower) return
      const rest = lower.clone().sub(upper).normalize()
      const out = degrees(curve('upperArm.out', own))
      const hang = new Vector3(mirror * Math.sin(out), -Math.cos(out), 0)
      const down = new Quaternion().setFromUnitVectors(rest, hang)
      const swing = new Quaternion().setFromAxisAngle(X, degrees(-curve('upperArm.swing', own)))
      set(
        `${side}UpperArm`,
        swing
          .multiply(down)
          .multiply(new Quaternion().setFromAxisAngle(hang.clone(), degrees(mirror * curve('upperArm.twist', own)))),
      )
      // the elbow bends forward about the axis across the hanging arm, seen in the arm's own rest frame
      const across = new Vector3(1, 0, 0).applyQuaternion(down.clone().invert())
      set(`${side}LowerArm`, new Quaternion().setFromAxisAngle(across, degrees(-curve('lowerArm.bend', own))))
      set(`${side}Hand`, new Quaternion().setFromAxisAngle(across, degrees(-curve('hand.bend', own))))
      // fingers curl towards the palm, which faces the body
      const fold = new Quaternion().setFromAxisAngle(Z, degrees(-mirror * curve('fingers.curl', own)))
      for (const finger of ['Index', 'Middle', 'Ring', 'Little'])
        for (const joint of ['Proximal', 'Intermediate']) set(`${side}${finger}${joint}`, fold)
    }
  }
  const rotations = turns.map((t) => (isStill(t) ? null : t))
  return { id: clip.id, name: clip.name, duration: clip.duration, loop: clip.loop, times, rotations, root, travel }
}

function legOf(
  s: 'left' | 'right',
  side: 1 | -1,
  index: ReadonlyMap<string, number>,
  at: (name: string) => Vector3 | null,
): Leg | null {
  const [hip, knee, ankle, ball] = [at(`${s}UpperLeg`), at(`${s}LowerLeg`), at(`${s}Foot`), at(`${s}Toes`)]
  if (!hip || !knee || !ankle) return null
  const toe = ball ?? ankle.clone().add(new Vector3(0, -ankle.y, ankle.y))
  return {
    side,
    upper: index.get(`${s}UpperLeg`)!,
    lower: index.get(`${s}LowerLeg`)!,
    foot: index.get(`${s}Foot`)!,
    toes: index.get(`${s}Toes`) ?? -1,
    thigh: knee.clone().sub(hip),
    shin: ankle.clone().sub(knee),
    ankle,
    // the toes stay flat while the heel rises, so the foot turns about their joint
    ball: toe,
    heel: new Vector3(ankle.x, 0, ankle.z - ankle.y * 0.6),
  }
}

/** Where a foot is along the way, in loops of travel from under the hips, and whether it stands. */
function footPlace(clip: ClipDef, phase: number): { along: number; standing: boolean } {
  const [start, end] = clip.stance
  const length = end - start
  if (length >= 1 || clip.travel === 0) return { along: 0, standing: true }
  const t = phase - start - Math.floor(phase - start)
  // standing, the ground carries it back at an even pace
  if (t <= length) return { along: length / 2 - t, standing: true }
  const f = (t - length) / (1 - length)
  // swinging, it leaves and lands at the ground's own pace (Hermite), so that nothing jerks
  const [p0, p1, m] = [-length / 2, length / 2, -(1 - length)]
  const f2 = f * f
  const f3 = f2 * f
  return {
    along: (2 * f3 - 3 * f2 + 1) * p0 + (f3 - 2 * f2 + f) * m + (3 * f2 - 2 * f3) * p1 + (f3 - f2) * m,
    standing: false,
  }
}

/** World turns of thigh and shin that bring the ankle to its place, the knee towards `knees`. */
function reach(leg: Leg, socket: Vector3, ankle: Vector3, knees: Vector3): { thigh: Quaternion; shin: Quaternion } {
  const a = leg.thigh.length()
  const b = leg.shin.length()
  const way = ankle.clone().sub(socket)
  const d = Math.min(way.length(), (a + b) * 0.9995)
  const dir = way.normalize()
  const cos = Math.min(1, Math.max(-1, (a * a + d * d - b * b) / (2 * a * d)))
  const bend = knees
    .clone()
    .sub(dir.clone().multiplyScalar(knees.dot(dir)))
    .normalize()
  const knee = dir
    .clone()
    .multiplyScalar(cos * a)
    .addScaledVector(bend, Math.sqrt(1 - cos * cos) * a)
  const hinge = new Vector3().crossVectors(bend, dir).normalize()
  const restHinge = new Vector3().crossVectors(Z, Y).negate()
  const shinEnd = dir.clone().multiplyScalar(d).sub(knee)
  return { thigh: frameTurn(leg.thigh, restHinge, knee, hinge), shin: frameTurn(leg.shin, restHinge, shinEnd, hinge) }
}

/** The rotation that takes a bone's direction and hinge to others. */
function frameTurn(fromDir: Vector3, fromHinge: Vector3, toDir: Vector3, toHinge: Vector3): Quaternion {
  const frame = (dir: Vector3, hinge: Vector3) => {
    const y = dir.clone().normalize()
    const x = hinge
      .clone()
      .sub(y.clone().multiplyScalar(hinge.dot(y)))
      .normalize()
    return new Matrix4().makeBasis(x, y, new Vector3().crossVectors(x, y))
  }
  const turn = frame(toDir, toHinge).multiply(frame(fromDir, fromHinge).transpose())
  return new Quaternion().setFromRotationMatrix(turn)
}

function isStill(turns: Float32Array): boolean {
  for (let i = 0; i < turns.length; i += 4)
    if (Math.abs(turns[i]!) + Math.abs(turns[i + 1]!) + Math.abs(turns[i + 2]!) > 1e-6) return false
  return true
}
