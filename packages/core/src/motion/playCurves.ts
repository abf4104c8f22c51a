import { Quaternion, Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'
import { restPose, type Pose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { timesTurn } from '../rig/turns.ts'
import { radians, type Channels } from './curves.ts'
import type { Leg } from './Leg.ts'
import { legLength } from './Leg.ts'
import { placeFoot, setTurn, type Step } from './step.ts'

const X = new Vector3(1, 0, 0)
const Z = new Vector3(0, 0, 1)

/** From this bone of a digit on, it curls by so much of what the others do. */
const TIP = 2
const TIP_CURL = 0.6

/** What of a skeleton curves are played on; the same at every phase. */
export interface Played {
  skeleton: Skeleton
  legs: readonly Leg[]
  /** The unit of lengths in curves, metres. */
  unit: number
  index: ReadonlyMap<string, number>
  /** Bones that curves turn by their own names. */
  single: readonly number[]
  /** Bones of limbs: no pair turns them. */
  chained: ReadonlySet<number>
}

export function playedOn(skeleton: Skeleton, legs: readonly Leg[]): Played {
  const { bones, limbs, pairs } = skeleton
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const paired = new Set(pairs.flatMap(({ left, right }) => [left, right]))
  const chained = new Set(limbs.flatMap((limb) => limb.bones.map((b) => index.get(b)!)))
  const single = [...bones.keys()].filter((i) => !paired.has(i) && !chained.has(i))
  return { skeleton, legs, unit: legLength(legs, skeleton), index, single, chained }
}

/**
 * The pose a clip's curves ask for at a phase: the root's way, turns of bones, pairs and chains,
 * arms, and feet where they step. Lengths are in leg lengths, turns in degrees.
 *
 * @param steps one a leg
 */
export function playCurves(
  clip: Pick<ClipDef, 'alternate'>,
  curves: Channels,
  { skeleton, legs, unit, index, single, chained }: Played,
  steps: readonly Step[],
  phase: number,
): Pose {
  const { bones, limbs, pairs } = skeleton
  const pose = restPose(bones)
  const set = (bone: number | undefined, q: Quaternion | null) => {
    if (bone !== undefined && q) setTurn(pose, bone, q)
  }
  const later = (side: number) => (clip.alternate && side < 0 ? phase + 0.5 : phase)

  // bones by themselves, the root first: it also goes its way
  for (const i of single) set(i, curves.turn(bones[i]!.name, phase, 1))
  const root = bones[0]!.name
  pose.root = pose.root.map((v, k) => v + curves.at(`${root}.${'xyz'[k]!}`, phase) * unit) as Pose['root']
  for (const { id, left, right } of pairs) {
    if (chained.has(left)) continue
    const turn = (bone: number, at: number, mirror: 1 | -1) =>
      curves.turn(bones[bone]!.name, at, mirror) ?? curves.turn(id, at, mirror)
    set(left, turn(left, phase, 1))
    set(right, turn(right, later(-1), -1))
  }
  for (const limb of limbs) {
    const side = limb.side === 'right' ? -1 : 1
    if (limb.kind === 'arm') poseArm(limb, skeleton, index, curves, side, later(side), set)
    else if (limb.kind === 'digit') {
      // digits curl towards the palm, which faces the body
      const curl = curves.of(limb.bones[0], limb.channels[0]!, 'curl', later(side))
      limb.bones.forEach((bone, i) => {
        const share = i < TIP ? 1 : TIP_CURL
        set(index.get(bone), new Quaternion().setFromAxisAngle(Z, radians(-side * curl * share)))
      })
    } else if (limb.kind !== 'leg')
      limb.bones.forEach((bone, i) => {
        // a wave runs down the chain
        const { bone: name, share, place } = limb.plays?.[i] ?? { bone, share: 1, place: i + 1 }
        const own = later(side) - place * (limb.lag ?? 0)
        const mirror = limb.side ? side : 1
        const channel = limb.channels[i] ?? limb.channels[0]!
        const turn = curves.turn(name, own, mirror) ?? curves.turn(channel, own, mirror)
        set(index.get(bone), turn && share !== 1 ? timesTurn(turn, share) : turn)
      })
  }
  // what bones that are left out turn, those that hang from them turn as well
  bones.forEach(({ through }, i) => {
    if (!through) return
    const whole = new Quaternion()
    for (const { name, pair, side } of through) {
      const turn =
        curves.turn(name, side < 0 ? later(-1) : phase, side) ?? (pair && curves.turn(pair, later(side), side))
      if (turn) whole.multiply(turn)
    }
    setTurn(pose, i, whole.multiply(new Quaternion().fromArray(pose.turns, i * 4)))
  })
  legs.forEach((leg, l) => placeFoot(leg, skeleton, steps[l]!, pose))
  return pose
}

/**
 * An arm hangs down, turned out, turned about itself, swung, lifted to its side with its elbow, and bent there, whatever it
 * does at rest. What is said of a bone by its own name holds for that side alone.
 */
function poseArm(
  limb: Skeleton['limbs'][number],
  { bones }: Skeleton,
  index: ReadonlyMap<string, number>,
  curves: Channels,
  mirror: 1 | -1,
  phase: number,
  set: (bone: number | undefined, q: Quaternion | null) => void,
): void {
  const [upper, lower, hand] = limb.bones.map((b) => index.get(b))
  const [upperArm, lowerArm, handName] = limb.channels as [string, string, string?]
  if (upper === undefined || lower === undefined) return
  const rest = new Vector3(...bones[lower]!.at).sub(new Vector3(...bones[upper]!.at)).normalize()
  const upperOf = (what: string) => radians(curves.of(limb.bones[0], upperArm, what, phase))
  const out = upperOf('out')
  const hang = new Vector3(mirror * Math.sin(out), -Math.cos(out), 0)
  const down = new Quaternion().setFromUnitVectors(rest, hang)
  const lift = new Quaternion().setFromAxisAngle(Z, mirror * upperOf('lift'))
  const swing = new Quaternion().setFromAxisAngle(X, -upperOf('swing'))
  const twist = new Quaternion().setFromAxisAngle(hang, mirror * upperOf('twist'))
  set(upper, lift.multiply(swing).multiply(twist).multiply(down))
  // the elbow bends forward about the axis across the hanging arm, seen in the arm's own rest frame
  const across = X.clone().applyQuaternion(down.clone().invert())
  const bendOf = (bone: string | undefined, channel: string) =>
    new Quaternion().setFromAxisAngle(across, radians(-curves.of(bone, channel, 'bend', phase)))
  set(lower, bendOf(limb.bones[1], lowerArm))
  if (handName) set(hand, bendOf(limb.bones[2], handName))
}
