import { Type, type Static } from '@sinclair/typebox'
import { fromUint8Array, toUint8Array } from 'js-base64'
import { Quaternion, Vector3 } from 'three'
import { problem, type Read } from '../../base/problem.ts'
import { readDocument, type DocumentKind } from '../../base/readDocument.ts'
import { closed, Name } from '../../base/schemas.ts'
import { MOST_JOINTS, uniqueNames, type ForeignMotion } from './ForeignMotion.ts'
import { MotionMatchSchema, type MotionMatch } from './matchMotion.ts'

export const MOTION_FORMAT = 'idle-tinker-motion'

/** Frames a second that are kept: what is carried is sampled no finer. */
const RATE = 30
/** Frames times joints that are kept, so that a document stays under its limit: a minute of a skeleton with its fingers. */
const MOST_VALUES = 150_000

/** In whatever unit the file has. */
const Far = Type.Number({ minimum: -1e7, maximum: 1e7 })
const Turn = Type.Tuple([Type.Number(), Type.Number(), Type.Number(), Type.Number()])

/** A motion from elsewhere as it is kept: the skeleton it came with, how that moves, and how it is to be carried. */
export const MotionSchema = Type.Object(
  {
    format: Type.Literal(MOTION_FORMAT),
    version: Type.Literal(1),
    name: Name,
    joints: Type.Array(
      Type.Object(
        {
          name: Type.String({ minLength: 1, maxLength: 200 }),
          parent: Type.Integer({ minimum: -1, maximum: MOST_JOINTS }),
          at: Type.Tuple([Far, Far, Far]),
          turn: Turn,
          end: Type.Boolean(),
        },
        closed,
      ),
      { minItems: 2, maxItems: MOST_JOINTS },
    ),
    up: Type.Union([Type.Literal('+y'), Type.Null()]),
    frames: Type.Integer({ minimum: 1, maximum: MOST_VALUES }),
    /** Seconds from one frame to the next. */
    step: Type.Number({ exclusiveMinimum: 0, maximum: 10 }),
    /** Joints whose place from the one above changes. */
    moving: Type.Array(Type.Integer({ minimum: 0, maximum: MOST_JOINTS }), { maxItems: MOST_JOINTS }),
    /**
     * Base64, little-endian: of each frame the turn of each joint, four 16-bit integers of 32767; then 32-bit floats:
     * the place of each joint from the one above it in the first frame, and of those that move in every frame.
     */
    data: Type.String({ maxLength: 4 << 20 }),
    /** Which joints are which bones; null as long as nobody knows. */
    match: Type.Union([MotionMatchSchema, Type.Null()]),
    /** Whether it goes round: by its ends, or as somebody has said. */
    loop: Type.Union([Type.Literal('ends'), Type.Literal('round'), Type.Literal('once')]),
    /** Whether one that is played once takes the figure along, or leaves it on the spot. */
    travels: Type.Boolean(),
  },
  closed,
)
export type Motion = Static<typeof MotionSchema>

export const MOTION_KIND: DocumentKind<typeof MotionSchema> = {
  format: MOTION_FORMAT,
  noun: 'motion',
  schema: MotionSchema,
  older: [],
}

/** Reads a motion that was kept; what its data does not hold is told. */
export function readMotionDocument(input: unknown, where = 'motion'): Read<Motion> {
  const read = readDocument(MOTION_KIND, input, where)
  const motion = read.value
  if (!motion) return read
  const count = motion.joints.length
  const sound =
    motion.joints.every((j, i) => j.parent < i) &&
    motion.moving.every((j, i, all) => j < count && (i === 0 || j > all[i - 1]!)) &&
    motion.frames * count <= MOST_VALUES &&
    /^[A-Za-z0-9+/]*={0,2}$/.test(motion.data) &&
    motion.data.length === 4 * Math.ceil(bytesOf(motion) / 3)
  if (sound) return read
  return {
    value: null,
    problems: [
      ...read.problems,
      problem('motion-data', `${where}/data`, 'Its data is broken.', 'Bring the file in again.'),
    ],
  }
}

const bytesOf = ({ joints, frames, moving }: Pick<Motion, 'joints' | 'frames' | 'moving'>) =>
  frames * joints.length * 8 + (joints.length + frames * moving.length) * 12

/** A motion as it is kept; one that is too long is told. */
export function keepMotion(motion: ForeignMotion, match: MotionMatch | null): Read<Motion> {
  const count = motion.joints.length
  const seconds = (motion.frames - 1) * motion.step
  const frames = Math.min(motion.frames, Math.max(1, Math.round(seconds * RATE) + 1))
  if (frames * count > MOST_VALUES)
    return {
      value: null,
      problems: [
        problem(
          'motion-long',
          motion.name,
          `It lasts ${Math.round(seconds)} s; of a skeleton with ${count} joints ${Math.floor(MOST_VALUES / count / RATE)} s are the most that is kept.`,
          'Cut it into clips.',
        ),
      ],
    }
  const names = uniqueNames(motion.joints.map((j) => j.name.slice(0, 190)))
  const moving = motion.joints.flatMap((_, j) => (staysPut(motion, j) ? [] : [j]))
  const kept = { joints: motion.joints.map(({ scale: _, ...j }, i) => ({ ...j, name: names[i]! })), frames, moving }
  const bytes = new DataView(new ArrayBuffer(bytesOf(kept)))
  let at = 0
  const place = new Vector3()
  const write = (v: Vector3) => {
    for (const k of v.toArray()) {
      bytes.setFloat32(at, k, true)
      at += 4
    }
  }
  const turn = new Quaternion()
  for (let f = 0; f < frames; f++) {
    const [a, b, u] = between(motion, f, frames)
    for (let j = 0; j < count; j++) {
      turn.fromArray(motion.turns, (a * count + j) * 4)
      turn.slerp(new Quaternion().fromArray(motion.turns, (b * count + j) * 4), u)
      for (const v of turn.toArray()) {
        bytes.setInt16(at, Math.round(Math.max(-1, Math.min(1, v)) * 32767), true)
        at += 2
      }
    }
  }
  for (let j = 0; j < count; j++) write(place.fromArray(motion.moves, j * 3))
  for (let f = 0; f < frames; f++) {
    const [a, b, u] = between(motion, f, frames)
    for (const j of moving)
      write(
        place
          .fromArray(motion.moves, (a * count + j) * 3)
          .lerp(new Vector3().fromArray(motion.moves, (b * count + j) * 3), u),
      )
  }
  return {
    value: {
      format: MOTION_FORMAT,
      version: 1,
      name: motion.name.slice(0, 80) || 'Motion',
      ...kept,
      up: motion.up,
      step: frames > 1 ? seconds / (frames - 1) : motion.step,
      data: fromUint8Array(new Uint8Array(bytes.buffer)),
      match,
      loop: 'ends',
      travels: true,
    },
    problems: [],
  }
}

/** The frames of a motion that one of fewer lies between, and how far from the first. */
function between({ frames }: ForeignMotion, frame: number, of: number): [number, number, number] {
  const at = of > 1 ? (frame * (frames - 1)) / (of - 1) : 0
  const low = Math.min(frames - 1, Math.floor(at + 1e-9))
  return [low, Math.min(frames - 1, low + 1), Math.max(0, at - low)]
}

function staysPut({ moves, frames, joints }: ForeignMotion, joint: number): boolean {
  for (let f = 1; f < frames; f++)
    for (let k = 0; k < 3; k++)
      if (Math.abs(moves[(f * joints.length + joint) * 3 + k]! - moves[joint * 3 + k]!) > 1e-6) return false
  return true
}

/** A kept motion to be carried. Only of what `readMotionDocument` has read. */
export function openMotion(motion: Motion): ForeignMotion {
  const { joints, frames, moving, step, up, name } = motion
  const count = joints.length
  const raw = toUint8Array(motion.data)
  const bytes = new DataView(raw.buffer, raw.byteOffset, raw.byteLength)
  const turns = new Float32Array(frames * count * 4)
  const moves = new Float32Array(frames * count * 3)
  const turn = new Quaternion()
  let at = 0
  for (let i = 0; i < turns.length; i += 4) {
    const parts = [0, 1, 2, 3].map((k) => bytes.getInt16(at + k * 2, true) / 32767)
    turn.fromArray(parts).normalize().toArray(turns, i)
    at += 8
  }
  const float = () => {
    at += 4
    return bytes.getFloat32(at - 4, true)
  }
  const first = Float32Array.from({ length: count * 3 }, float)
  for (let f = 0; f < frames; f++) moves.set(first, f * count * 3)
  for (let f = 0; f < frames; f++)
    for (const j of moving) for (let k = 0; k < 3; k++) moves[(f * count + j) * 3 + k] = float()
  return { name, joints: joints.map((j) => ({ ...j })), frames, step, turns, moves, up }
}
