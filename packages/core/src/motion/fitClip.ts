import { Quaternion, Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'
import type { Pose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { bendStep, leanInto } from './arc.ts'
import type { Clip } from './Clip.ts'
import { keepChainsUp } from './keepChainsUp.ts'
import { keepGrip } from './keepGrip.ts'
import { keepTrunkUp } from './keepTrunkUp.ts'
import { legsOf } from './Leg.ts'
import { keepArmsOut, type Flanks } from './keepArmsOut.ts'
import { liftHands } from './liftHands.ts'
import { clipOf } from './clipOf.ts'
import { plantFeet, type Moment } from './plantFeet.ts'
import { channelsOf, radians } from './curves.ts'
import { playCurves, playedOn } from './playCurves.ts'
import type { Skin, Sole } from './soles.ts'
import { placeAlong, smoothstep, stepOf, type Step } from './step.ts'

const SAMPLES_A_SECOND = 30

/**
 * Fits a clip's curves to a skeleton's own proportions: plays them thirty times a second, then
 * plants the feet on the figure's own soles. Lengths in curves are in leg lengths, turns in degrees.
 *
 * @param soles  what can touch the ground, by limb (see `solesOf`); without any, feet go where curves say
 * @param flanks what arms can hang into (see `flanksOf`); without, they hang where curves say
 * @param belly  what of the trunk can come down to the ground (see `bellyOf`)
 */
export function fitClip(
  clip: ClipDef,
  skeleton: Skeleton,
  soles: readonly Sole[] = [],
  flanks: Flanks | null = null,
  belly: Skin | null = null,
): Clip {
  const { bones } = skeleton
  const legs = legsOf(skeleton, clip)
  const played = playedOn(skeleton, legs)
  const { unit } = played
  const way = { travel: clip.travel * unit, arc: clip.travel > 0 ? radians(clip.arc ?? 0) : 0 }
  // even the shortest has a beginning and an end
  const n = Math.max(2, Math.round(clip.duration * SAMPLES_A_SECOND) + 1)
  const curves = channelsOf(clip)
  const moments = Array.from({ length: n }, (_, s): Moment => {
    const phase = s / (n - 1)
    const places = legs.map((leg) => placeAlong(leg, phase - leg.phase))
    const steps = legs.map((leg) => stepOf(clip, leg, curves, phase, unit))
    for (const step of steps) bendStep(step, way)
    if (clip.lies) lieDown(steps, curves.turn(bones[0]!.name, phase, 1))
    const pose = playCurves(clip, curves, played, steps, phase)
    if (way.arc !== 0) leanOver(pose, leanInto(way, clip.duration))
    return {
      pose,
      steps,
      standing: places.map((p) => p.standing),
      swing: places.map((p) => p.swing),
    }
  })
  plantFeet(skeleton, legs, soles, moments, { loop: clip.loop, travel: way.travel / (n - 1), arc: way.arc / (n - 1) })
  if (belly) keepTrunkUp(skeleton, legs, belly, moments, clip.loop)
  if (flanks) keepArmsOut(skeleton, flanks, moments, clip.loop)
  if (clip.grip) keepGrip(clip.grip, skeleton, moments, clip.loop)
  liftHands(skeleton, soles, moments, clip.loop)
  keepChainsUp(skeleton, soles, moments, clip.loop, way.travel > 0)

  const { id, name, duration, loop } = clip
  return clipOf({ id, name, duration, loop, travel: way.travel, ...(way.arc && { arc: way.arc }) }, bones, moments)
}

const AHEAD = new Vector3(0, 0, 1)

/** Tips all of a figure to its left, about the ground beneath it. */
function leanOver(pose: Pose, angle: number): void {
  pose.root[0] += pose.root[1] * Math.tan(angle)
  const turn = new Quaternion().setFromAxisAngle(AHEAD, -angle)
  turn.multiply(new Quaternion().fromArray(pose.turns, 0)).toArray(pose.turns, 0)
}

/** A trunk that is tipped by less stands, by more it lies, radians. */
const TIPPED = [0.6, 1.2] as const

/** Of who lies down knees point where the trunk faces: up, and not along the ground. */
function lieDown(steps: readonly Step[], root: Readonly<Quaternion> | null): void {
  if (!root) return
  const angle = 2 * Math.acos(Math.min(1, Math.abs(root.w)))
  const share = smoothstep((angle - TIPPED[0]) / (TIPPED[1] - TIPPED[0]))
  const turn = new Quaternion().slerp(root, share)
  for (const { pole } of steps) pole.applyQuaternion(turn)
}
