import { Type, type Static } from '@sinclair/typebox'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { contentHash } from '../../base/canonical.ts'
import { problem, type Read } from '../../base/problem.ts'
import { closed, Id, record } from '../../base/schemas.ts'
import { wordsOf } from '../../base/words.ts'
import type { BodyPlan } from '../../kit/plan.ts'
import type { ForeignJoint } from '../../rig/foreignSkeleton.ts'
import { limbsOf, scoredMatch } from '../../rig/matchBones.ts'
import type { ForeignMotion } from './ForeignMotion.ts'

const AXES = ['+x', '-x', '+y', '-y', '+z', '-z'] as const
type Axis = (typeof AXES)[number]

/** Which joints of a skeleton from elsewhere are the bones of a plan: good for every motion of that skeleton. */
export const MotionMatchSchema = Type.Object(
  {
    format: Type.Literal('idle-tinker-match'),
    version: Type.Literal(1),
    /** Hash of the names of its joints, in order of the alphabet. */
    skeleton: Type.String({ pattern: '^[0-9a-f]{16,128}$' }),
    plan: Id,
    up: Type.Union(AXES.map((a) => Type.Literal(a))),
    front: Type.Union(AXES.map((a) => Type.Literal(a))),
    /** The joint that each bone follows. */
    bones: record(Type.String({ minLength: 1, maxLength: 200 })),
  },
  closed,
)
export type MotionMatch = Static<typeof MotionMatchSchema>

export interface Matched {
  match: MotionMatch
  /** What one should look at, and why; empty where nothing speaks against the match. */
  doubtful: { bone: string; why: string }[]
}

/** The hash by which a skeleton is known again. */
export const skeletonHash = ({ joints }: Pick<ForeignMotion, 'joints'>): string =>
  contentHash(joints.map((j) => j.name).sort())

const vectorOf = (axis: Axis): Vector3 => {
  const v = new Vector3()
  v.setComponent('xyz'.indexOf(axis[1]!), axis.startsWith('-') ? -1 : 1)
  return v
}

/** The turn that brings a file's axes to ours: up to y, front to z. */
export function turnToOurs({ up, front }: Pick<MotionMatch, 'up' | 'front'>): Quaternion {
  const [y, z] = [vectorOf(up), vectorOf(front)]
  const theirs = new Matrix4().makeBasis(new Vector3().crossVectors(y, z), y, z)
  return new Quaternion().setFromRotationMatrix(theirs).invert()
}

/** What cues of the axes are worth, against limbs that look like limbs (`scoredMatch`). */
const WORTH = { side: 3, toes: 1.5, above: 1, up: { '+y': 0.7, '+z': 0.2 } as Record<string, number>, front: 0.15 }
/** What the file itself says of its axes is believed unless all else speaks against it. */
const SAID = 2

/**
 * Finds which joints of a motion's skeleton are the bones of a plan with two legs and two arms or on four legs, and which
 * way up and round it stands.
 * All ways up and round are tried: the one is taken in which limbs look most like limbs, left lies left, and toes ahead.
 */
export function matchMotion(motion: ForeignMotion, plan: BodyPlan): Read<Matched> {
  const { legs, arms } = limbsOf(plan)
  const four = legs === 4 && arms === 0
  if (!four && (legs !== 2 || arms !== 2))
    return {
      value: null,
      problems: [
        problem(
          'match-plan',
          motion.name,
          'Motions from elsewhere go onto figures with two legs and two arms, or on four legs.',
          'Choose another figure.',
        ),
      ],
    }
  const real = motion.joints.flatMap((joint, j) => (joint.end ? [] : [j]))
  const number = new Map(real.map((j, i) => [j, i]))
  const sides = sidesOf(real.map((j) => motion.joints[j]!.name))
  let best: { up: Axis; front: Axis; bones: Map<string, number>; score: number } | null = null
  for (const up of AXES)
    for (const front of AXES) {
      if (up[1] === front[1]) continue
      const turn = turnToOurs({ up, front })
      const joints = placedJoints(motion, turn)
      const placed = joints.map((j) => new Vector3(...j.at))
      const found = scoredMatch(joints, plan)
      if (!found) continue
      const score =
        found.score +
        sideScore(sides, placed) +
        toesScore(found.bones, plan, motion, placed, real, number, turn) +
        (four ? 0 : heightScore(found.bones, plan, placed)) +
        (WORTH.up[up] ?? 0) +
        (motion.up === up ? SAID : 0) +
        (front === '+z' ? WORTH.front : 0)
      if (!best || score > best.score) best = { up, front, bones: found.bones, score }
    }
  if (!best)
    return {
      value: null,
      problems: [
        problem(
          'match-none',
          motion.name,
          `Its skeleton has no ${four ? 'four legs' : 'two legs and two arms'} that could be told.`,
          'Say which joint each bone follows.',
        ),
      ],
    }
  const { bones, up, front } = best
  const names = [...bones].map(([bone, i]) => [bone, motion.joints[real[i]!]!.name] as const)
  const match: MotionMatch = {
    format: 'idle-tinker-match',
    version: 1,
    skeleton: skeletonHash(motion),
    plan: plan.id,
    up,
    front,
    bones: Object.fromEntries(names),
  }
  return { value: { match, doubtful: doubtsOf(names, plan, sides, real, motion) }, problems: [] }
}

/** A figure's usual height, so that lengths mean something whatever the unit. */
const HEIGHT = 1.7

/** The joints of a motion that are no mere ends, as a turn stands them up: metres, on the ground. */
export function placedJoints({ joints }: Pick<ForeignMotion, 'joints'>, turn: Quaternion): ForeignJoint[] {
  const real = joints.flatMap((joint, j) => (joint.end ? [] : [j]))
  const number = new Map(real.map((j, i) => [j, i]))
  const placed = metres(real.map((j) => new Vector3(...joints[j]!.at).applyQuaternion(turn)))
  return real.map((j, i): ForeignJoint => {
    const { name, parent } = joints[j]!
    return { name, at: placed[i]!.toArray(), parent: number.get(parent) ?? -1 }
  })
}

/** Places of a skeleton as tall as that, on the ground. */
function metres(places: readonly Vector3[]): Vector3[] {
  const ys = places.map((p) => p.y)
  const floor = Math.min(...ys)
  const height = Math.max(...ys) - floor
  const by = height > 0 ? HEIGHT / height : 1
  return places.map((p) => new Vector3(p.x * by, (p.y - floor) * by, p.z * by))
}

/** What names say of the side: 1 left, -1 right; only where the same name is there for the other side. */
function sidesOf(names: readonly string[]): number[] {
  const words = names.map((name) => wordsOf(name.replace(/^.*[:|]/, '')))
  const all = new Set(words.map((w) => w.join(' ')))
  return words.map((own) => {
    for (const [left, right] of [
      ['left', 'right'],
      ['l', 'r'],
    ] as const)
      for (const [mine, other, side] of [
        [left, right, 1],
        [right, left, -1],
      ] as const)
        if (own.includes(mine) && all.has(own.map((w) => (w === mine ? other : w)).join(' '))) return side
    return 0
  })
}

function sideScore(sides: readonly number[], placed: readonly Vector3[]): number {
  let [agree, said] = [0, 0]
  sides.forEach((side, i) => {
    if (side === 0 || Math.abs(placed[i]!.x) < 0.01) return
    said++
    agree += Math.sign(placed[i]!.x) === side ? 1 : -1
  })
  return said === 0 ? 0 : (WORTH.side * agree) / said
}

/** Toes, or what ends a foot, lie ahead of the ankle. */
function toesScore(
  bones: ReadonlyMap<string, number>,
  { limbs }: BodyPlan,
  motion: ForeignMotion,
  placed: readonly Vector3[],
  real: readonly number[],
  number: ReadonlyMap<number, number>,
  turn: Quaternion,
): number {
  let score = 0
  for (const { kind, bones: names } of limbs) {
    if (kind !== 'leg') continue
    const foot = bones.get(names[2]!)
    if (foot === undefined) continue
    const own = real[foot]!
    const ahead = new Vector3()
    motion.joints.forEach((joint, j) => {
      if (joint.parent !== own) return
      const at = number.get(j)
      if (at !== undefined) ahead.add(placed[at]!).sub(placed[foot]!)
      else ahead.add(new Vector3(...joint.at).sub(new Vector3(...motion.joints[own]!.at)).applyQuaternion(turn))
    })
    const level = Math.hypot(ahead.x, ahead.z)
    if (level > 1e-6) score += (WORTH.toes / 2) * (ahead.z / level)
  }
  return score
}

/** Heads are on top, hips above feet. */
function heightScore(bones: ReadonlyMap<string, number>, { bones: planned }: BodyPlan, placed: readonly Vector3[]) {
  const root = bones.get(planned[0]!.name)
  if (root === undefined) return 0
  const ys = placed.map((p) => p.y)
  const share = (placed[root]!.y - Math.min(...ys)) / (Math.max(...ys) - Math.min(...ys) || 1)
  return WORTH.above * (share > 0.35 && share < 0.75 ? 1 : -1)
}

function doubtsOf(
  names: readonly (readonly [bone: string, joint: string])[],
  plan: BodyPlan,
  sides: readonly number[],
  real: readonly number[],
  { joints }: ForeignMotion,
): Matched['doubtful'] {
  const doubtful: Matched['doubtful'] = []
  const sideOfBone = new Map(plan.pairs.flatMap(({ left, right }) => [[left, 1] as const, [right, -1] as const]))
  const sideOfJoint = new Map(real.map((j, i) => [joints[j]!.name, sides[i]!]))
  const taken = new Map<string, string>()
  for (const [bone, joint] of names) {
    const own = sideOfBone.get(bone) ?? 0
    const said = sideOfJoint.get(joint) ?? 0
    if (own && said && own !== said) doubtful.push({ bone, why: `“${joint}” is called for the other side.` })
    const other = taken.get(joint)
    if (other) doubtful.push({ bone, why: `“${joint}” is “${other}” too.` })
    taken.set(joint, bone)
  }
  const found = new Set(names.map(([bone]) => bone))
  for (const limb of plan.limbs)
    if (limb.kind === 'leg' || limb.kind === 'arm')
      for (const bone of limb.bones.slice(0, 3))
        if (!found.has(bone)) doubtful.push({ bone, why: 'No joint was found.' })
  return doubtful
}
