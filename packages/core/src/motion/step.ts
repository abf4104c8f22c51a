import { Quaternion, Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'
import { solveTwoBones } from '../rig/inverseKinematics.ts'
import type { Pose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import type { Leg } from './Leg.ts'
import { radians, type Channels } from './curves.ts'

const X = new Vector3(1, 0, 0)
const Y = new Vector3(0, 1, 0)

/** Where a foot is to be at a moment. */
export interface Step {
  /** The ankle's place, metres. */
  ankle: Vector3
  /** World turn of the foot. */
  foot: Quaternion
  /** Where the knee points. */
  pole: Vector3
  /** Local turn of the toes about x, radians; null where they stay as they are. */
  toes: number | null
}

/** What a clip's curves ask of a leg at a phase of the clip. */
export function stepOf(clip: ClipDef, leg: Leg, curves: Channels, phase: number, unit: number): Step {
  const { names, channels } = leg
  const footOf = (what: string, at: number) => curves.of(names.foot, channels.foot, what, at)
  const own = phase - leg.phase
  const place = placeAlong(leg, own)
  const pitch = radians(footOf('pitch', own))
  const yaw = radians(leg.side * footOf('yaw', own))
  const turnOut = new Quaternion().setFromAxisAngle(Y, yaw)
  const foot = turnOut.clone().multiply(new Quaternion().setFromAxisAngle(X, pitch))
  // turned out about the ball, then tipped about what carries it: the ball, or the heel below the ankle
  const pivot = pitch >= 0 ? leg.ball : new Vector3(leg.ankle.x, 0, leg.ankle.z)
  const carried = pivot.clone().sub(leg.ball).applyQuaternion(turnOut).add(leg.ball)
  const ankle = leg.ankle.clone().sub(pivot).applyQuaternion(foot).add(carried)
  ankle.z += (place.along * clip.travel + footOf('along', own)) * unit
  ankle.x += leg.side * footOf('out', own) * unit
  if (!place.standing) ankle.y += Math.max(0, footOf('lift', own)) * unit
  const pole = leg.pole
    .clone()
    .applyAxisAngle(Y, yaw + radians(leg.side * curves.of(names.knee, channels.knee, 'out', own)))
  // with the heel up the toes stay flat; in the air they come back to what the curve says
  const flat = Math.min(MOST_TOE_BEND, Math.max(0, pitch))
  const fade = place.standing ? 1 : 1 - smoothstep(place.swing / TOES_FREE)
  const asDrawn = pitch > 0 ? 1 - fade : 1
  const toes = radians(curves.of(names.toes, channels.toes, 'pitch', own)) * asDrawn - flat * fade
  // all of it about the middle of the figure: to the left, whichever foot it is
  const about = new Quaternion().setFromAxisAngle(Y, radians(footOf('turn', own)))
  return {
    ankle: ankle.applyQuaternion(about),
    foot: foot.premultiply(about),
    pole: pole.applyQuaternion(about),
    toes,
  }
}

/** Toes bend up no farther than this, radians. */
const MOST_TOE_BEND = Math.PI / 3
/** The share of a swing in which toes that were bent come free of the ground. */
const TOES_FREE = 0.5

export function smoothstep(t: number): number {
  const u = Math.min(1, Math.max(0, t))
  return u * u * (3 - 2 * u)
}

/**
 * Where a foot is along the way, in loops of travel from under its hip, whether it stands, and how
 * far through its swing it is.
 */
export function placeAlong(
  { stance }: Pick<Leg, 'stance'>,
  phase: number,
): { along: number; standing: boolean; swing: number } {
  const [start, end] = stance
  const length = end - start
  if (length >= 1) return { along: 0, standing: true, swing: 0 }
  if (length <= 0) return { along: 0, standing: false, swing: 0.5 }
  const t = phase - start - Math.floor(phase - start)
  // standing, the ground carries it back at an even pace
  if (t <= length) return { along: length / 2 - t, standing: true, swing: 0 }
  const f = (t - length) / (1 - length)
  // just off the ground it still goes back with it, and again before it lands; between, it swings
  // forward from pace to pace (Hermite), so that nothing jerks
  const pace = -(1 - length)
  if (f < NEAR_GROUND) return { along: -length / 2 + pace * f, standing: false, swing: f }
  if (f > 1 - NEAR_GROUND) return { along: length / 2 - pace * (1 - f), standing: false, swing: f }
  const span = 1 - 2 * NEAR_GROUND
  const u = (f - NEAR_GROUND) / span
  const [p0, p1, m] = [-length / 2 + pace * NEAR_GROUND, length / 2 - pace * NEAR_GROUND, pace * span]
  const u2 = u * u
  const u3 = u2 * u
  return {
    along: (2 * u3 - 3 * u2 + 1) * p0 + (u3 - 2 * u2 + u) * m + (3 * u2 - 2 * u3) * p1 + (u3 - u2) * m,
    standing: false,
    swing: f,
  }
}

/** The share of a swing, at its beginning and its end, in which a foot is too near the ground to go its own way. */
export const NEAR_GROUND = 0.085

/** Bends a leg so that its foot comes to its step; the rest of the pose, above the leg, must stand. */
export function placeFoot(leg: Leg, skeleton: Skeleton, step: Step, pose: Pose): void {
  const { upper, lower, foot, toes } = leg.bones
  const above = worldTurn(skeleton, pose, skeleton.bones[upper]!.parent)
  const socket = worldJoint(skeleton, pose, upper)
  const turns = solveTwoBones(leg, socket, step.ankle, step.pole)
  setTurn(pose, upper, above.clone().invert().multiply(turns.upper))
  setTurn(pose, lower, turns.upper.clone().invert().multiply(turns.lower))
  setTurn(pose, foot, turns.lower.clone().invert().multiply(step.foot))
  if (toes >= 0 && step.toes !== null) setTurn(pose, toes, new Quaternion().setFromAxisAngle(X, step.toes))
}

/** Gives a bone its turn. */
export function setTurn({ turns }: Pose, bone: number, { x, y, z, w }: Quaternion): void {
  const at = bone * 4
  turns[at] = x
  turns[at + 1] = y
  turns[at + 2] = z
  turns[at + 3] = w
}

/** World turn of one bone: those from the root down to it. */
export function worldTurn({ bones }: Skeleton, pose: Pose, bone: number): Quaternion {
  const out = new Quaternion()
  for (let b = bone; b >= 0; b = bones[b]!.parent) out.premultiply(turnOf.fromArray(pose.turns, b * 4))
  return out
}

// asked for every moment of every clip: made once
const turnOf = new Quaternion()

/** Turns a bone, and all that hangs on it, by a turn as the world sees it. */
export function turnInWorld(skeleton: Skeleton, pose: Pose, bone: number, turn: Quaternion): void {
  const above = worldTurn(skeleton, pose, skeleton.bones[bone]!.parent)
  const local = above.clone().invert().multiply(turn).multiply(above)
  local.multiply(new Quaternion().fromArray(pose.turns, bone * 4)).toArray(pose.turns, bone * 4)
}

/** Where the joint of one bone is. */
export function worldJoint({ bones }: Skeleton, pose: Pose, bone: number): Vector3 {
  const out = new Vector3()
  let b = bone
  for (; bones[b]!.parent >= 0; b = bones[b]!.parent) {
    const { at, parent } = bones[b]!
    const from = bones[parent]!.at
    out.x += at[0] - from[0]
    out.y += at[1] - from[1]
    out.z += at[2] - from[2]
    out.applyQuaternion(turnOf.fromArray(pose.turns, parent * 4))
  }
  const [x, y, z] = pose.root
  return out.set(out.x + x, out.y + y, out.z + z)
}
