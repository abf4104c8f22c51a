import { Type, type Static } from '@sinclair/typebox'
import { Quaternion } from 'three'
import { problem, type Read } from '../../base/problem.ts'
import { readDocument, type DocumentKind } from '../../base/readDocument.ts'
import { closed, Id, Name, record } from '../../base/schemas.ts'
import { restPose, type Pose } from '../../rig/Pose.ts'
import { shareTwists } from '../../rig/twist.ts'
import { timesTurn } from '../../rig/turns.ts'
import { unitOf } from '../Leg.ts'
import type { Posable } from './PoseRig.ts'

export const POSE_FORMAT = 'idle-tinker-pose'

const Share = Type.Number({ minimum: -1.001, maximum: 1.001 })
const Legs = Type.Number({ minimum: -50, maximum: 50 })

/** A pose as it is kept: for any figure of the plan, however it is shaped and however many bones it has. */
export const KeptPoseSchema = Type.Object(
  {
    format: Type.Literal(POSE_FORMAT),
    version: Type.Literal(1),
    name: Name,
    /** The kind of skeleton it is for. */
    plan: Id,
    /** Bone to its turn from rest, xyzw, in axes that run with the figure's at rest and turn with the bone above. */
    turns: record(Type.Tuple([Share, Share, Share, Share]), 300),
    /** How far the root is from where it is at rest, in leg lengths. */
    root: Type.Tuple([Legs, Legs, Legs]),
  },
  closed,
)
export type KeptPose = Static<typeof KeptPoseSchema>

export const POSE_KIND: DocumentKind<typeof KeptPoseSchema> = {
  format: POSE_FORMAT,
  noun: 'pose',
  schema: KeptPoseSchema,
  older: [],
}

/** Turns of another length than one by more are none. */
const ROUGH = 0.01

/** Whether four numbers are a turn: of length one. */
export const isTurn = (turn: readonly number[]): boolean => Math.abs(Math.hypot(...turn) - 1) <= ROUGH

/** Reads a kept pose; one whose turns are none is told. */
export function readPose(input: unknown, where = 'pose'): Read<KeptPose> {
  const read = readDocument(POSE_KIND, input, where)
  for (const [bone, turn] of Object.entries(read.value?.turns ?? {}))
    if (!isTurn(turn))
      return {
        value: null,
        problems: [
          ...read.problems,
          problem('pose-turn', `${where}/turns/${bone}`, 'This is no turn: its length is not 1.', 'Correct it.'),
        ],
      }
  return read
}

type Turn = KeptPose['turns'][string]
const IDENTITY: Turn = [0, 0, 0, 1]
/** Turns that differ by less are the same, as the sum over their four numbers. */
const SAME = 1e-5
/** Digits that are kept: turns to a ten-thousandth of a degree. */
const round = (v: number) => Math.round(v * 1e6) / 1e6 || 0

const saidOf = ({ turns }: Pick<KeptPose, 'turns'>, bone: string): Quaternion =>
  new Quaternion(...(Object.hasOwn(turns, bone) ? turns[bone]! : IDENTITY)).normalize()

/** What each bone of a chain with another number of bones plays, by its index. */
function playedBy({ limbs, bones }: Posable): Map<number, { bone: string; share: number }> {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  return new Map(limbs.flatMap((l) => (l.plays ?? []).map((play, i) => [index.get(l.bones[i]!)!, play] as const)))
}

/**
 * A kept pose on a figure. Bones that are not there turn what hangs from them; a chain with another number of bones takes
 * its share of each; bones the pose does not speak of are at rest.
 */
export function poseOn(kept: KeptPose, skeleton: Posable): Pose {
  const { bones } = skeleton
  const pose = restPose(bones)
  const plays = playedBy(skeleton)
  bones.forEach(({ name, through = [] }, i) => {
    const play = plays.get(i)
    const own = play ? timesTurn(saidOf(kept, play.bone), play.share) : saidOf(kept, name)
    for (const { name: gone } of [...through].reverse()) own.premultiply(saidOf(kept, gone))
    own.normalize().toArray(pose.turns, i * 4)
  })
  const unit = unitOf(skeleton)
  pose.root = pose.root.map((v, k) => v + kept.root[k]! * unit) as Pose['root']
  shareTwists(bones, pose)
  return pose
}

/**
 * A pose of a figure as it is kept.
 *
 * @param before what it was made from: of bones that this figure has not, what that says stays
 */
export function keepPose(
  pose: Pose,
  skeleton: Posable,
  { name, plan }: Pick<KeptPose, 'name' | 'plan'>,
  before: Pick<KeptPose, 'turns'> = { turns: {} },
): KeptPose {
  const { bones } = skeleton
  const plays = playedBy(skeleton)
  const as = poseOn({ ...EMPTY, ...before, name, plan }, skeleton)
  const isSame = (bone: number) =>
    [0, 1, 2, 3].reduce((sum, k) => sum + Math.abs(as.turns[bone * 4 + k]! - pose.turns[bone * 4 + k]!), 0) < SAME
  const turns = new Map<string, Turn>(Object.entries(before.turns))
  const say = (bone: string, turn: Quaternion) => turns.set(bone, turn.normalize().toArray().map(round) as Turn)
  /** Planned bones of chains of which something has changed, with what all that play them turn. */
  const played = new Map<string, { turn: Quaternion; shares: number }>()
  bones.forEach(({ name: own, through = [], twist }, i) => {
    if (twist) return
    const turn = new Quaternion().fromArray(pose.turns, i * 4)
    const play = plays.get(i)
    if (play) {
      const { turn: above, shares } = played.get(play.bone) ?? { turn: new Quaternion(), shares: 0 }
      played.set(play.bone, { turn: above.multiply(turn), shares: shares + play.share })
      return
    }
    if (isSame(i)) return
    for (const { name: gone } of through) turn.premultiply(saidOf(before, gone).invert())
    say(own, turn)
  })
  if ([...plays.keys()].some((bone) => !isSame(bone)))
    for (const [bone, { turn, shares }] of played) say(bone, timesTurn(turn.normalize(), 1 / shares))
  const unit = unitOf(skeleton)
  const entries = [...turns].filter(([, turn]) => Math.abs(turn[3]) !== 1)
  return {
    ...EMPTY,
    name,
    plan,
    turns: Object.fromEntries(entries.sort(([a], [b]) => (a < b ? -1 : 1))),
    root: pose.root.map((v, k) => round((v - bones[0]!.at[k]!) / unit)) as KeptPose['root'],
  }
}

const EMPTY: KeptPose = { format: POSE_FORMAT, version: 1, name: 'Pose', plan: 'none', turns: {}, root: [0, 0, 0] }
