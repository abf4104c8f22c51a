import { Quaternion, Vector3 } from 'three'
import { problem, type Problem, type Read } from '../../base/problem.ts'
import { restPose, type Pose } from '../../rig/Pose.ts'
import type { Skeleton } from '../../rig/Skeleton.ts'
import type { Clip } from '../Clip.ts'
import { clipOf } from '../clipOf.ts'
import { keepArmsOut, type Flanks } from '../keepArmsOut.ts'
import { keepChainsUp } from '../keepChainsUp.ts'
import { keepTrunkUp } from '../keepTrunkUp.ts'
import { legsOf, type Leg } from '../Leg.ts'
import { liftHands } from '../liftHands.ts'
import { plantFeet, type Moment } from '../plantFeet.ts'
import type { Skin, Sole } from '../soles.ts'
import { setTurn, smoothstep, worldJoint, worldTurn, type Step } from '../step.ts'
import { alignRest } from './alignRest.ts'
import { contactsOf, type Contacts } from './contacts.ts'
import type { ForeignMotion } from './ForeignMotion.ts'
import { keepHandsTogether } from './keepHandsTogether.ts'
import type { MotionMatch } from './matchMotion.ts'
import { sampleMotion, type Sampled } from './sampleMotion.ts'

/** What of a figure meets the ground and itself; see `solesOf`, `flanksOf`, `bellyOf`. */
export interface Touching {
  soles: readonly Sole[]
  flanks: Flanks | null
  belly: Skin | null
}

export interface CarryOptions {
  id: string
  name: string
  /** Whether it goes round; where it is not said, it does if it ends as it begins. */
  loop?: boolean
  /** The part of it that is carried, seconds; all of it where it is not said. */
  from?: number
  to?: number
}

const SAMPLES_A_SECOND = 30
/** Longer clips nobody plays, seconds. */
const MOST_SECONDS = 300
/** A motion whose ends differ by no more goes round: mean turn of a bone, radians; height, in leg lengths. */
const SAME = { turn: 0.14, height: 0.03 }
/** How it is brought round: what the ends differ by is taken up over so many seconds. */
const CLOSING = 0.3
/** A loop that goes no farther than this stays on the spot; one that goes more aside than ahead is none; leg lengths. */
const STAYS = 0.2
const ASIDE = 0.5

/**
 * Carries a motion from elsewhere over to a figure: as each bone turns from rest there, so it turns here, after both
 * rests were laid onto each other; the way goes by the lengths of legs. Then the figure's own soles are planted where
 * theirs stood, arms are kept out of a broader body, and hands that met meet.
 */
export function carryMotion(
  motion: ForeignMotion,
  match: Pick<MotionMatch, 'up' | 'front' | 'bones'>,
  skeleton: Skeleton,
  { soles, flanks, belly }: Touching,
  options: CarryOptions,
): Read<Clip> {
  const fault = (code: string, message: string, fix: string, problems: Problem[] = []): Read<Clip> => ({
    value: null,
    problems: [...problems, problem(code, motion.name, message, fix)],
  })
  const [from, to] = [options.from ?? 0, Math.min(options.to ?? Infinity, (motion.frames - 1) * motion.step)]
  if (!(from >= 0) || from > to)
    return fault('motion-cut', 'It has nothing between the times that were asked for.', 'Ask for others.')
  if (to - from > MOST_SECONDS)
    return fault(
      'motion-long',
      `It lasts ${Math.round(to - from)} s; ${MOST_SECONDS} are the most of one clip.`,
      'Take a part of it.',
    )
  const { joints, lost } = jointsOf(motion, match, skeleton)
  const problems = lost.map((name) =>
    problem(
      'match-joint',
      name,
      'The match names it, and the skeleton has no such joint.',
      'Match it anew.',
      'warning',
    ),
  )
  const legs = legsOf(skeleton, { alternate: true, stance: [0, 0.5] })
  const missing = legs.flatMap(({ bones: { upper, lower, foot } }) =>
    [upper, lower, foot].filter((b) => !joints.has(b)),
  )
  if (legs.length === 0 || missing.length)
    return fault(
      'match-legs',
      missing.length
        ? `No joint is known for ${missing.map((b) => `“${skeleton.bones[b]!.name}”`).join(', ')}.`
        : 'The figure has no legs to stand on.',
      'Say which joints are its legs.',
      problems,
    )
  const seconds = to - from
  const n = Math.max(2, Math.round(seconds * SAMPLES_A_SECOND) + 1)
  const source = sampleMotion(motion, match, joints, from, seconds, n)
  const leg = theirLeg(source, legs)
  if (leg < 1e-6)
    return fault('match-legs', 'The legs of its skeleton have no length.', 'Say which joints are its legs.', problems)
  const loop = options.loop ?? (n > 8 && endsMeet(source, legs, leg))
  const carried = carry(source, skeleton, legs, leg, loop)
  const { moments, pace } = carried
  plantFeet(skeleton, legs, soles, moments, { loop, travel: pace, arc: 0 })
  if (belly) keepTrunkUp(skeleton, legs, belly, moments, loop)
  if (flanks) keepArmsOut(skeleton, flanks, moments, loop)
  keepHandsTogether(skeleton, moments, carried.hands, loop)
  liftHands(skeleton, soles, moments, loop)
  keepChainsUp(skeleton, soles, moments, loop, pace > 0)
  const duration = Math.max(seconds, 1 / SAMPLES_A_SECOND)
  const said = { id: options.id, name: options.name, duration, loop, travel: pace * (n - 1) }
  return { value: clipOf(said, skeleton.bones, moments), problems }
}

/**
 * The pose in which a figure stands as a motion's skeleton stands at rest: arms and legs lie as its do, feet are as they
 * are where those stand flat. Null where the match knows no legs.
 */
export function standAsRest(
  motion: ForeignMotion,
  match: Pick<MotionMatch, 'up' | 'front' | 'bones'>,
  skeleton: Skeleton,
): Pose | null {
  const { joints } = jointsOf(motion, match, skeleton)
  const legs = legsOf(skeleton, { alternate: true, stance: [0, 0.5] })
  if (legs.length === 0 || legs.some(({ bones: b }) => ![b.upper, b.lower, b.foot].every((i) => joints.has(i))))
    return null
  const seconds = Math.min(MOST_SECONDS, (motion.frames - 1) * motion.step)
  const n = Math.max(2, Math.round(seconds * SAMPLES_A_SECOND) + 1)
  const source = sampleMotion(motion, match, joints, 0, seconds, n)
  const leg = theirLeg(source, legs)
  if (leg < 1e-6) return null
  const levels = motion.frames > 1 ? levelsOf(source, legs, touching(source, legs, leg, false)) : new Map()
  const world = alignRest(skeleton, source.rest, levels)
  const pose = restPose(skeleton.bones)
  skeleton.bones.forEach(({ parent }, b) => {
    const own = parent < 0 ? world[b]!.clone() : world[parent]!.clone().invert().multiply(world[b]!)
    setTurn(pose, b, own)
  })
  return pose
}

const touching = (source: Sampled, legs: readonly Leg[], leg: number, loop: boolean): Contacts =>
  contactsOf(
    legs.map(({ bones: { foot, toes } }) => ({
      ankle: source.at.get(foot)!,
      ball: source.at.get(toes) ?? null,
    })),
    leg,
    source.rate,
    loop,
  )

/** Which joint each bone follows. */
function jointsOf(
  motion: ForeignMotion,
  { bones: matched }: Pick<MotionMatch, 'bones'>,
  { bones }: Skeleton,
): { joints: Map<number, number>; lost: string[] } {
  const number = new Map(motion.joints.map((j, i) => [j.name, i]))
  const joints = new Map<number, number>()
  const lost: string[] = []
  bones.forEach(({ name }, b) => {
    const joint = Object.hasOwn(matched, name) ? matched[name]! : undefined
    if (joint === undefined) return
    const found = number.get(joint)
    if (found === undefined) lost.push(joint)
    else joints.set(b, found)
  })
  return { joints, lost }
}

const middleOf = (source: Sampled, legs: readonly Leg[], s: number) =>
  legs.reduce((sum, { bones }) => sum.add(source.at.get(bones.upper)![s]!), new Vector3()).divideScalar(legs.length)

/** Mean length of their legs at first, in their unit: what is at rest may be in another. */
function theirLeg({ at }: Sampled, legs: readonly Leg[]): number {
  const far = (a: number, b: number) => at.get(a)![0]!.distanceTo(at.get(b)![0]!)
  return (
    legs.reduce((sum, { bones: { upper, lower, foot } }) => sum + far(upper, lower) + far(lower, foot), 0) / legs.length
  )
}

const ourLeg = (legs: readonly Leg[]) =>
  legs.reduce((sum, { upper, lower }) => sum + upper.length() + lower.length(), 0) / legs.length

function endsMeet(source: Sampled, legs: readonly Leg[], leg: number): boolean {
  const last = source.n - 1
  let [turned, count] = [0, 0]
  for (const list of source.turns.values()) {
    turned += list[0]!.angleTo(list[last]!)
    count++
  }
  const way = middleOf(source, legs, last).sub(middleOf(source, legs, 0))
  const goes = Math.hypot(way.x, way.z) > STAYS * leg
  // one that goes aside or back has no loop that ends where the next begins, seen from itself
  if (goes && Math.abs(way.x) > ASIDE * way.z) return false
  return turned / Math.max(1, count) < SAME.turn && Math.abs(way.y) < SAME.height * leg
}

interface Carried {
  moments: Moment[]
  /** How far the ground goes back a sample, metres. */
  pace: number
  /** By sample: from right hand to left, and how much of the figure's height that was of theirs. */
  hands: { way: Vector3; share: number }[] | null
}

function carry(source: Sampled, skeleton: Skeleton, legs: readonly Leg[], leg: number, loop: boolean): Carried {
  const { n } = source
  const scale = ourLeg(legs) / leg
  const contacts = touching(source, legs, leg, loop)
  const aligned = alignRest(skeleton, source.rest, levelsOf(source, legs, contacts))
  const poses = posesOf(source, skeleton, aligned)
  moveRoots(poses, source, skeleton, legs, scale)
  const way = new Vector3(poses[n - 1]!.root[0] - poses[0]!.root[0], 0, poses[n - 1]!.root[2] - poses[0]!.root[2])
  const travels = loop && way.length() > STAYS * ourLeg(legs)
  if (loop) closeLoop(poses, way, Math.round(CLOSING * source.rate))
  const pace = travels ? way.z / (n - 1) : (-contacts.ground.z * scale) / source.rate
  const moments = poses.map((pose, s): Moment => {
    const turns = legs.map((leg) => worldTurn(skeleton, pose, leg.bones.foot))
    return {
      pose,
      steps: legs.map((leg, l) => stepFrom(leg, skeleton, pose, turns[l]!)),
      standing: contacts.standing.map((own) => own[s]!),
      swing: contacts.swing.map((own) => own[s]!),
    }
  })
  return { moments, pace, hands: handsOf(source, skeleton) }
}

const heightOf = (ys: readonly number[]) => Math.max(1e-9, Math.max(...ys) - Math.min(...ys))

/** Each bone turned from rest as theirs is, after the two rests were laid onto each other. */
function posesOf(source: Sampled, { bones }: Skeleton, aligned: readonly Quaternion[]): Pose[] {
  const world = bones.map(() => new Quaternion())
  // what they do not have stands to what it hangs on as it does when both are at rest
  const still = bones.map(({ parent }, b) =>
    parent < 0 ? new Quaternion() : aligned[parent]!.clone().invert().multiply(aligned[b]!),
  )
  const local = new Quaternion()
  return Array.from({ length: source.n }, (_, s) => {
    const pose = restPose(bones)
    for (let b = 0; b < bones.length; b++) {
      const { parent } = bones[b]!
      const turns = source.turns.get(b)
      if (turns) world[b]!.multiplyQuaternions(turns[s]!, aligned[b]!)
      else if (parent >= 0) world[b]!.multiplyQuaternions(world[parent]!, still[b]!)
      if (parent < 0) local.copy(world[b]!)
      else local.copy(world[parent]!).invert().multiply(world[b]!)
      setTurn(pose, b, local)
    }
    return pose
  })
}

/** The middle between the hips goes theirs' way, in our leg lengths; feet at their lowest stand as high as ours do. */
function moveRoots(poses: Pose[], source: Sampled, skeleton: Skeleton, legs: readonly Leg[], scale: number): void {
  const ankles = legs.flatMap(({ bones }) => source.at.get(bones.foot)!.map((p) => p.y)).sort((a, b) => a - b)
  const floor = ankles[Math.floor(0.05 * (ankles.length - 1))]!
  const ground = legs.reduce((sum, { ankle }) => sum + ankle.y, 0) / legs.length
  const root = new Vector3(...skeleton.bones[0]!.at)
  const start = middleOf(source, legs, 0)
  poses.forEach((pose, s) => {
    // how far the hips' middle is off the root in this pose
    const off = legs
      .reduce((sum, leg) => sum.add(worldJoint(skeleton, pose, leg.bones.upper)), new Vector3())
      .divideScalar(legs.length)
      .sub(root)
    const middle = middleOf(source, legs, s)
    pose.root = [
      (middle.x - start.x) * scale - off.x,
      (middle.y - floor) * scale + ground - off.y,
      (middle.z - start.z) * scale - off.z,
    ]
  })
}

/** Takes the way out of a loop, and what its ends differ by. */
function closeLoop(poses: Pose[], way: Vector3, over: number): void {
  const last = poses.length - 1
  poses.forEach((pose, s) => {
    pose.root[0] -= (way.x * s) / last
    pose.root[2] -= (way.z * s) / last
  })
  const [first, end] = [poses[0]!, poses[last]!]
  const lift = first.root[1] - end.root[1]
  const bones = first.turns.length / 4
  const lacks = Array.from({ length: bones }, (_, b) =>
    new Quaternion()
      .fromArray(end.turns, b * 4)
      .invert()
      .multiply(new Quaternion().fromArray(first.turns, b * 4)),
  )
  const none = new Quaternion()
  for (let s = Math.max(0, last - over); s <= last; s++) {
    const share = smoothstep((s - (last - over)) / Math.max(1, over))
    const pose = poses[s]!
    pose.root[1] += lift * share
    lacks.forEach((lack, b) => {
      const turn = new Quaternion().fromArray(pose.turns, b * 4)
      setTurn(pose, b, turn.multiply(none.clone().slerp(lack, share)))
    })
  }
}

/** More than this a foot that stands flat is not out of level for its rest alone, radians. */
const MOST_LEVELLED = 0.7

/** Which way is up to each foot at rest: the middle of how it is tipped from there while it stands flat. */
function levelsOf(source: Sampled, legs: readonly Leg[], { flat }: Contacts): Map<number, Vector3> {
  const levels = new Map<number, Vector3>()
  legs.forEach(({ bones: { foot } }, l) => {
    const ups = source.turns
      .get(foot)!
      .flatMap((turn, s) => (flat[l]![s] ? [new Vector3(0, 1, 0).applyQuaternion(turn.clone().invert())] : []))
    if (ups.length < 3) return
    const middle = (k: 0 | 1 | 2) => ups.map((u) => u.getComponent(k)).sort((a, b) => a - b)[ups.length >> 1]!
    const up = new Vector3(middle(0), middle(1), middle(2)).normalize()
    if (up.angleTo(new Vector3(0, 1, 0)) < MOST_LEVELLED) levels.set(foot, up)
  })
  return levels
}

/** A leg that bends less than this points its knee where the thigh does; share of its length. */
const STRAIGHT = 0.02

function stepFrom(leg: Leg, skeleton: Skeleton, pose: Pose, foot: Quaternion): Step {
  const [hip, knee, ankle] = [leg.bones.upper, leg.bones.lower, leg.bones.foot].map((b) =>
    worldJoint(skeleton, pose, b),
  ) as [Vector3, Vector3, Vector3]
  const along = ankle.clone().sub(hip).normalize()
  const out = knee.clone().sub(hip)
  out.addScaledVector(along, -out.dot(along))
  const plain = leg.pole.clone().applyQuaternion(worldTurn(skeleton, pose, leg.bones.upper))
  const share = smoothstep(out.length() / (STRAIGHT * (leg.upper.length() + leg.lower.length())) - 1)
  const pole = out.length() > 1e-9 ? plain.multiplyScalar(1 - share).addScaledVector(out.normalize(), share) : plain
  return { ankle, foot, pole, toes: null }
}

/** From hand to hand, in our lengths; null of a figure or a motion that has not two. */
function handsOf({ rest, at }: Sampled, { bones, limbs }: Skeleton): Carried['hands'] {
  const ends = limbs.filter((l) => l.kind === 'arm' && l.bones.length > 2).map((l) => l.bones[2]!)
  const [left, right] = ends.map((name) => at.get(bones.findIndex((b) => b.name === name)))
  if (ends.length !== 2 || !left || !right) return null
  const theirs = heightOf([...rest.values()].map((p) => p.y))
  const ours = heightOf([...rest.keys()].map((b) => bones[b]!.at[1]))
  return left.map((place, s) => {
    const way = place.clone().sub(right[s]!)
    return { share: way.length() / theirs, way: way.multiplyScalar(ours / theirs) }
  })
}
