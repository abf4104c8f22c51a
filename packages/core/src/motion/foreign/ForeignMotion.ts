import { Quaternion } from 'three'
import { problem, type Problem } from '../../base/problem.ts'

/** A joint of a skeleton that came with a motion, in the file's own unit and axes. */
export interface MotionJoint {
  /** Unique in its motion. */
  name: string
  /** The joint above it, -1 if there is none; parents come first. */
  parent: number
  /** Where it stands at rest, and how it is turned there, xyzw. */
  at: [number, number, number]
  turn: [number, number, number, number]
  /** How much longer a unit of what hangs on it is than one of the file's; as long if not said. */
  scale?: number
  /** Only tells where the one above it ends: nothing moves it. */
  end: boolean
}

/** How much longer a unit is than the file's, where it is one worth saying. */
export const scaleSaid = (scale: number): Pick<MotionJoint, 'scale'> => (Math.abs(scale - 1) > 1e-4 ? { scale } : {})

/** Sides of a scale may differ by so much, of the longest. */
const EVEN = 0.01

/** Tells of a joint that is scaled more one way than another, or mirrored: lengths are not known beneath it. Null where none is. */
export function unevenScale(
  where: string,
  joints: readonly { name: string; scale: readonly number[] }[],
): Problem | null {
  const uneven = joints.find(({ scale }) => {
    const longest = Math.max(...scale.map(Math.abs))
    return scale.some((side) => longest - side > EVEN * longest)
  })
  if (!uneven) return null
  const said = `“${uneven.name}” is scaled unevenly, or mirrored: what hangs on it is taken to be as large every way.`
  return problem('scale-uneven', where, said, 'Apply its scale before it is exported.', 'warning')
}

/** Motion as somebody else has made it: a skeleton of any kind, and how each joint stands from the one above it. */
export interface ForeignMotion {
  name: string
  joints: MotionJoint[]
  frames: number
  /** Seconds from one frame to the next. */
  step: number
  /** Turn of each joint from the one above it, xyzw; by frame, then by joint. */
  turns: Float32Array
  /** Its place from the one above it in that one's axes, xyz; by frame, then by joint. */
  moves: Float32Array
  /** What the file says of its axes; null where it does not, and only most files of its kind agree. */
  up: '+y' | null
}

/** Frames times joints of a motion: five minutes at 60 a second of a skeleton with its fingers. */
const MOST_VALUES = 1_500_000
/** More joints than any figure has. */
export const MOST_JOINTS = 400

/** Clips that are curves are looked at so often a second: as often as anyone draws. */
export const RATE = 60
/** Longer than any motion of a figure, seconds. */
const MOST_SECONDS = 600

/** Why a motion cannot be taken for how long it lasts; null where it can. */
export function tooLong(where: string, seconds: number): Problem | null {
  if (seconds <= MOST_SECONDS) return null
  const message = `It lasts ${Math.round(seconds)} s; ${MOST_SECONDS} are the most.`
  return problem('motion-long', where, message, 'Cut it into clips.')
}

/** The key before a time, the one after it, and how far it is from the one to the other, 0 to 1; keys in order. */
export function keysAround(times: ArrayLike<number>, count: number, time: number): { a: number; b: number; u: number } {
  let [low, high] = [0, count]
  while (low < high) {
    const middle = (low + high) >> 1
    if (times[middle]! > time) high = middle
    else low = middle + 1
  }
  const a = Math.max(0, Math.min(count - 1, low - 1))
  const b = Math.min(count - 1, a + 1)
  const span = times[b]! - times[a]!
  return { a, b, u: span > 0 ? Math.min(1, Math.max(0, (time - times[a]!) / span)) : 0 }
}

/** Why a motion cannot be taken for its size; null where it can. */
export function tooLarge(where: string, joints: number, frames: number): Problem | null {
  if (joints > MOST_JOINTS)
    return problem(
      'motion-joints',
      where,
      `Its skeleton has ${joints} joints; ${MOST_JOINTS} are the most.`,
      'Leave out what is no bone of the figure.',
    )
  const most = Math.floor(MOST_VALUES / Math.max(1, joints))
  if (frames <= most) return null
  return problem(
    'motion-long',
    where,
    `It has ${frames} frames; of a skeleton with ${joints} joints ${most} are the most.`,
    'Cut it into clips, or write fewer frames a second.',
  )
}

/** Where every joint is at a frame, in the file's unit and axes: places, xyz, and turns, xyzw. Allocates nothing. */
export function placeJoints(
  { joints, turns, moves }: ForeignMotion,
  frame: number,
  out: { at: Float32Array; turns: Float32Array },
): void {
  const count = joints.length
  for (let j = 0; j < count; j++) {
    const { parent } = joints[j]!
    const m = (frame * count + j) * 3
    const t = (frame * count + j) * 4
    if (parent < 0) {
      for (let k = 0; k < 3; k++) out.at[j * 3 + k] = moves[m + k]!
      for (let k = 0; k < 4; k++) out.turns[j * 4 + k] = turns[t + k]!
      continue
    }
    turned(out.turns, parent * 4, moves, m, out.at, j * 3)
    for (let k = 0; k < 3; k++) out.at[j * 3 + k]! += out.at[parent * 3 + k]!
    Quaternion.multiplyQuaternionsFlat(
      out.turns as unknown as number[],
      j * 4,
      out.turns as unknown as number[],
      parent * 4,
      turns as unknown as number[],
      t,
    )
  }
}

/** The vector at `v` of a list turned by the quaternion at `q` of another, into `out` at `o`. */
function turned(q: Float32Array, at: number, list: Float32Array, v: number, out: Float32Array, o: number): void {
  const [qx, qy, qz, qw] = [q[at]!, q[at + 1]!, q[at + 2]!, q[at + 3]!]
  const [x, y, z] = [list[v]!, list[v + 1]!, list[v + 2]!]
  const tx = 2 * (qy * z - qz * y)
  const ty = 2 * (qz * x - qx * z)
  const tz = 2 * (qx * y - qy * x)
  out[o] = x + qw * tx + qy * tz - qz * ty
  out[o + 1] = y + qw * ty + qz * tx - qx * tz
  out[o + 2] = z + qw * tz + qx * ty - qy * tx
}

/** Names of joints, each once: what comes again gets a number behind it. */
export function uniqueNames(names: readonly string[]): string[] {
  const taken = new Set<string>()
  return names.map((name) => {
    const stem = name.trim() || 'joint'
    let free = stem
    for (let n = 2; taken.has(free); n++) free = `${stem} ${n}`
    taken.add(free)
    return free
  })
}
