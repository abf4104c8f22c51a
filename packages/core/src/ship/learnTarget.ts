import { Quaternion, Vector3 } from 'three'
import { problem, type Problem, type Read } from '../base/problem.ts'
import type { BodyPlan } from '../kit/plan.ts'
import { keepPose } from '../motion/poses/keptPose.ts'
import { standAsRest } from '../motion/foreign/carryMotion.ts'
import type { ForeignMotion } from '../motion/foreign/ForeignMotion.ts'
import { matchMotion, turnToOurs, type MotionMatch } from '../motion/foreign/matchMotion.ts'
import { matchSureness } from '../motion/foreign/matchSureness.ts'
import type { Beside } from '../scene/joinGltf.ts'
import { readMotion } from '../motion/foreign/readMotion.ts'
import { LEAST_SCALE, UNITS, type Convention, type ConventionJoint, type Target } from '../recipe/target.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { colladaSays } from './colladaSays.ts'
import { isGlb } from '../scene/readScene.ts'
import { isMatchOf, unsureOf } from './carryClips.ts'

/** What was learned of a game's file. */
export interface Learned {
  target: Target
  match: MotionMatch
  /** Bones one should look at, and why; what a person has said is doubted by nobody. */
  doubtful: { bone: string; why: string }[]
  /** Joints of the file that no bone of ours is, and that are not in the target: nothing of ours hangs below them. */
  left: string[]
}

/** What a person can be asked of a file that is learned from: which of its joints each bone is. */
export interface Asked {
  plan: BodyPlan
  joints: ForeignMotion['joints']
  /** As far as it is known. */
  match: MotionMatch | null
  /** Those of the figure it was learned for. */
  bones: Skeleton['bones']
}

/** What was learned, and what one can be asked of it, also where nothing was. */
export type LearnRead = Read<Learned> & { asked: Asked | null }

/** A figure that comes out between these times as tall as ours is counted in that unit: a child, and a giant. */
const LIKELY = { least: 0.4, most: 2.5 }
/** Names that a target can hold have so many characters. */
const MOST_NAME = 80

/**
 * Learns a target from a file of a person's own game (GLB, glTF, VRM, COLLADA or BVH with a skeleton): what its bones are
 * called, what they hang on, how they are turned and how they stand at rest, its unit and its axes. A figure shipped to it
 * plays that file's clips by the names of bones alone; what moves the root goes by the two figures' legs.
 *
 * @param figure  any figure of the plan, as it stands at rest
 * @param base    what the target has of limits and all else
 * @param options a match that is known; what lies beside the file
 */
export async function learnTarget(
  bytes: Uint8Array,
  file: string,
  figure: { skeleton: Skeleton; plan: BodyPlan },
  base: Target,
  options: { match?: MotionMatch; beside?: Beside } = {},
): Promise<LearnRead> {
  const read = await readMotion(bytes, file, options.beside, true)
  if (!read.value) return { value: null, problems: read.problems, asked: null }
  let asked: Asked | null = null
  const fault = (code: string, message: string, fix: string): LearnRead => ({
    value: null,
    problems: [...read.problems, problem(code, file, message, fix)],
    asked,
  })
  const motion = read.value[0]!
  const tops = topsOf(motion)
  if (tops.length > 1)
    return fault(
      'skeleton-two',
      `It holds ${tops.length} skeletons: ${tops.map((t) => `“${t}”`).join(', ')}.`,
      'Export one of them alone.',
    )
  const long = motion.joints.find((j) => j.name.length > MOST_NAME)
  if (long)
    return fault('name-long', `“${long.name.slice(0, 30)}…” has more than ${MOST_NAME} characters.`, 'Rename it.')
  const known = options.match && isMatchOf(options.match, motion, figure.plan) ? options.match : null
  const found = known ? { value: { match: known, doubtful: [] }, problems: [] } : matchMotion(motion, figure.plan)
  asked = { plan: figure.plan, joints: motion.joints, match: found.value?.match ?? null, bones: figure.skeleton.bones }
  if (!found.value) return { value: null, problems: [...read.problems, ...found.problems], asked }
  const said = known ? null : bonesSaid(bytes, motion, figure.plan)
  const match = said ? { ...found.value.match, bones: { ...found.value.match.bones, ...said } } : found.value.match
  asked = { ...asked, match }
  const missing = missingOf(match, figure.plan)
  if (missing.length)
    return fault(
      'skeleton-half',
      `It has no joint for ${missing.map((b) => `“${b}”`).join(', ')}.`,
      'Export the whole skeleton, or say which joints they are.',
    )
  const rest = standAsRest(motion, match, figure.skeleton)
  if (!rest) return fault('match-legs', 'The legs of its skeleton have no length.', 'Say which joints are its legs.')
  const { joints, table, left, astray } = jointsOf(motion, match, figure.plan)
  const problems: Problem[] = [...read.problems]
  if (options.match && !known)
    problems.push(problem('match-other', file, 'The match is for another skeleton.', 'It was matched anew.', 'warning'))
  if (astray)
    problems.push(
      problem(
        'joints-astray',
        file,
        `“${astray}” does not hang on the joint of the hips: it is taken for a part of what both hang on.`,
        'Look whether clips of the game turn it as they should.',
        'warning',
      ),
    )
  const doubtful =
    known || said ? [] : [...found.value.doubtful, ...unsureOf(found.value, matchSureness(motion, match, figure.plan))]
  const unit = unitOf(bytes, motion, match, figure.skeleton)
  // glTF is in metres whatever stands in it: a figure of 178 of them is a hundred times as large as ours, and one of 8 a giant
  const isOther = isMetres(bytes) && 1 / unit >= OTHER_UNIT
  if (isOther)
    problems.push(
      problem(
        'learned-large',
        file,
        `Its figure is ${Number((1 / unit).toPrecision(3))} times as large as glTF, which counts in metres, would have it.`,
        'glTF files for it will count in its unit; let them count in metres if the game makes figures smaller itself.',
        'info',
      ),
    )
  const convention: Convention = {
    ...base.convention,
    unit: isMetres(bytes) && !isOther ? 1 : unit,
    ...{ up: match.up, front: match.front, root: '' },
    rest: 'pose',
    pose: poseOf(keepPose(rest, figure.skeleton, { name: 'Rest of the game', plan: figure.plan.id })),
    bones: { ...base.convention.bones, names: 'table', table, axes: 'joints', joints },
  }
  const counted = isOther ? 'unit' : 'metres'
  const gltf = isMetres(bytes) && (isOther || base.gltf) ? ({ ...base.gltf, counted } as const) : base.gltf
  const target: Target = { ...base, convention, ...(gltf && { gltf }) }
  return { value: { target, match, doubtful, left }, problems, asked }
}

const poseOf = ({ format: _, version: __, ...pose }: ReturnType<typeof keepPose>) => pose

/** A figure of a glTF file that is so many times as large as ours is no giant, but was counted in another unit. */
const OTHER_UNIT = 8

/** Whether it is glTF, in one file or as text. */
const isMetres = (bytes: Uint8Array) =>
  isGlb(bytes) || /^\uFEFF?\s*\{/.test(new TextDecoder().decode(bytes.subarray(0, 99)))

/** Joints that hang on none, with limbs below: more than a few of their own. */
function topsOf({ joints }: ForeignMotion): string[] {
  const top = (j: number): number => (joints[j]!.parent < 0 ? j : top(joints[j]!.parent))
  const count = new Map<number, number>()
  joints.forEach((_, j) => count.set(top(j), (count.get(top(j)) ?? 0) + 1))
  return [...count].filter(([, n]) => n >= FEW).map(([j]) => joints[j]!.name)
}

/** Fewer joints are a prop, or a node in which nothing moves. */
const FEW = 8

/** The bones of legs and arms that follow no joint, without toes. */
function missingOf({ bones }: MotionMatch, { limbs }: BodyPlan): string[] {
  const wanted = limbs.filter((l) => l.kind === 'leg' || l.kind === 'arm').flatMap((l) => l.bones.slice(0, 3))
  return wanted.filter((b) => !Object.hasOwn(bones, b))
}

/** The joints that bones of ours follow, with all above them; and what each bone is called there. */
function jointsOf(motion: ForeignMotion, match: MotionMatch, plan: BodyPlan) {
  const { joints: all } = motion
  const number = new Map(all.map((j, i) => [j.name, i]))
  const wayUp = (j: number): number[] => (j < 0 ? [] : [j, ...wayUp(all[j]!.parent)])
  const table = { ...match.bones }
  const root = plan.bones[0]!.name
  // all else hangs on what our root follows; where it does not there, our root is what all of it hangs on
  const ways = Object.values(table).map((name) => wayUp(number.get(name)!))
  const shared = ways.reduce((both, way) => both.filter((j) => way.includes(j)))[0]
  const astray =
    shared !== undefined && table[root] !== undefined && all[shared]!.name !== table[root] ? table[root] : null
  if (shared !== undefined) table[root] = all[shared]!.name
  const turn = turnToOurs(match)
  const wanted = new Set(ways.flat())
  const up = (j: number) => new Vector3(...all[j]!.at).applyQuaternion(turn).y
  const hips = shared ?? number.get(table[root]!)!
  const roots = new Set(wayUp(all[hips]!.parent))
  // what it stands on: the lowest of what it hangs on, or of its joints
  const floor = Math.min(...[...wanted].map(up))
  const joints = all.flatMap(({ name, parent, turn: own, scale }, j): ConventionJoint[] => {
    if (!wanted.has(j)) return []
    const height = roots.has(j) ? (up(j) - floor) / (up(hips) - floor) : 0
    return [
      {
        ...{ name, parent: parent < 0 ? null : all[parent]!.name },
        turn: turn
          .clone()
          .multiply(new Quaternion(...own))
          .normalize()
          .toArray(),
        ...(scale !== undefined && scale >= LEAST_SCALE && scale * LEAST_SCALE <= 1 && { scale }),
        ...(roots.has(j) && Number.isFinite(height) && { height: Math.min(1, Math.max(0, height)) }),
      },
    ]
  })
  const left = all.flatMap(({ name, end }, j) => (wanted.has(j) || end ? [] : [name]))
  return { joints, table, left, astray }
}

/** Metres in one of a file's units: as it says, or the one in which its figure is most nearly as tall as ours. */
function unitOf(bytes: Uint8Array, motion: ForeignMotion, match: MotionMatch, ours: Skeleton): number {
  const turn = turnToOurs(match)
  const { bones } = match
  const spanOf = (heights: readonly number[]) => Math.max(...heights) - Math.min(...heights)
  const theirs = spanOf(
    motion.joints
      .filter((j) => Object.values(bones).includes(j.name))
      .map((j) => new Vector3(...j.at).applyQuaternion(turn).y),
  )
  const own = spanOf(ours.bones.filter((b) => Object.hasOwn(bones, b.name)).map((b) => b.at[1]))
  const text = new TextDecoder().decode(bytes)
  const said = /^\uFEFF?\s*</.test(text) ? (colladaSays(text)?.unit ?? null) : null
  const likely = (unit: number) => {
    const times = (theirs * unit) / own
    return times >= LIKELY.least && times <= LIKELY.most
  }
  if (said !== null && likely(said)) return said
  const near = (unit: number) => Math.abs(Math.log((theirs * unit) / own))
  return likely(1)
    ? 1
    : UNITS.map((u): number => u.metres).reduce((best, unit) => (near(unit) < near(best) ? unit : best))
}

/** Which joints are which bones of ours, as a VRM says itself; null of other files. */
function bonesSaid(bytes: Uint8Array, { joints }: ForeignMotion, plan: BodyPlan): Record<string, string> | null {
  if (!isGlb(bytes)) return null
  const length = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(12, true)
  // it was read as a whole before
  const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as {
    nodes?: { name?: string }[]
    extensions?: { VRMC_vrm?: { humanoid?: { humanBones?: Record<string, { node?: number }> } } }
  }
  const humanBones = json.extensions?.VRMC_vrm?.humanoid?.humanBones
  if (!humanBones) return null
  const [ours, theirs] = [new Set(plan.bones.map((b) => b.name)), new Set(joints.map((j) => j.name))]
  return Object.fromEntries(
    Object.entries(humanBones).flatMap(([bone, at]) => {
      const name = json.nodes?.[at?.node ?? -1]?.name
      return name !== undefined && ours.has(bone) && theirs.has(name) ? [[bone, name]] : []
    }),
  )
}
