import { Quaternion, Vector3 } from 'three'
import { placeOnWay } from '../motion/arc.ts'
import { faceSharesAt, poseAt, type Clip, type ClipFace } from '../motion/Clip.ts'
import type { Target } from '../recipe/target.ts'
import { createWorldPose, restPose, solveForward, type Pose } from '../rig/Pose.ts'
import { bonesBelow, type Bone } from '../rig/Skeleton.ts'
import { thinKeys } from '../motion/thinKeys.ts'

/** Keys of one bone's turn, or of where the root stands; between them an engine goes by a line. */
export interface Track {
  bone: number
  path: 'rotation' | 'translation'
  times: Float32Array
  values: Float32Array
  /** Equal for tracks of a clip whose keys are at the same times. */
  at: string
}

/** Keys of a face; `names.length` shares a key. */
export interface FaceTrack extends ClipFace {
  times: Float32Array
}

/** A clip as it is written: as few keys as hold it. */
export interface KeyedClip {
  name: string
  /** Whether it goes round. */
  loop: boolean
  tracks: Track[]
  /** How what the skeleton hangs on goes along, where a game wants it apart; `bone` is always 0: the one on the ground. */
  way?: Track[]
  /** What the face does meanwhile. */
  face?: FaceTrack
  /** How many keys are left of how many. */
  kept: number
  of: number
  /** How far a joint is from where it was at any of the clip's samples, metres; worked out when it is asked for. */
  error: () => number
}

/** Components of turns, and places in metres, may be off by so much where a target says nothing. */
const USUAL = { turn: 8e-4, place: 5e-4 }
/** How much there is of an expression may be off by this: of a move of a centimetre a tenth of a millimetre. */
const FACE = 0.01
/** Tolerances are halved so many times before all keys stay. */
const TRIES = 5
/** Errors of bones in a row add up: each has so much of what is allowed. */
const SHARE = 0.35

/**
 * How a target wants a clip: at its frames a second, going along or staying, and with the keys it needs.
 *
 * @param grounded whether what the skeleton hangs on goes along instead of its own root
 */
export function keyClip(
  clip: Clip,
  bones: readonly Bone[],
  { motion = {} }: Pick<Target, 'motion'> = {},
  grounded = false,
): KeyedClip {
  const goes = motion.travels === true && clip.travel !== 0
  const made = goes && !grounded ? travelling(clip) : clip
  const whole = motion.rate ? atRate(made, motion.rate) : made
  const all = tracksOf(whole, bones)
  const face = faceTrack(whole)
  const of = tracksOf(made, bones).reduce((sum, t) => sum + t.times.length, face ? made.times.length : 0)
  const keyed = (tracks: Track[]): KeyedClip => ({
    ...{ name: clip.name, loop: clip.loop },
    tracks,
    ...(goes && grounded && { way: wayOf(whole, motion.tolerance) }),
    ...(face && { face }),
    kept: tracks.reduce((sum, t) => sum + t.times.length, face?.times.length ?? 0),
    of,
    error: once(() => errorOf(made, tracks, bones)),
  })
  if (motion.tolerance === undefined) return keyed(thinned(all, () => USUAL.turn, USUAL.place))
  const reach = reaches(bones)
  let allowed = (motion.tolerance / 1000) * SHARE
  for (let n = 0; n < TRIES; n++, allowed /= 2) {
    // half an angle is what a component of a turn changes by
    const tracks = thinned(all, (bone) => allowed / 2 / reach[bone]!, allowed)
    // what fewer samples a second cost is told, but no keys can bring it back
    if (errorOf(whole, tracks, bones) * 1000 <= motion.tolerance) return keyed(tracks)
  }
  return keyed(all)
}

/** Works something out when it is first asked for. */
function once(find: () => number): () => number {
  let found: number | undefined
  return () => (found ??= find())
}

/** The clip with fewer samples a second; one that has no more is left as it is. */
function atRate(clip: Clip, rate: number): Clip {
  const n = Math.max(2, Math.round(clip.duration * rate) + 1)
  if (n >= clip.times.length) return clip
  const times = Float32Array.from({ length: n }, (_, i) => (i * clip.duration) / (n - 1))
  const rotations = clip.rotations.map((r) => r && new Float32Array(n * 4))
  const root = new Float32Array(n * 3)
  times.forEach((t, i) => {
    const pose = poseAt(endless(clip, i === n - 1), t)
    rotations.forEach((r, b) => r?.set(pose.turns.subarray(b * 4, b * 4 + 4), i * 4))
    root.set(pose.root, i * 3)
  })
  const moves = clip.moves?.map((own) => own && resampled(own, clip.times, times))
  const { face, ...rest } = clip
  const shares =
    face && Float32Array.from([...times].flatMap((t, i) => faceSharesAt(endless(clip, i === n - 1), face, t)))
  return {
    ...rest,
    times,
    rotations,
    root,
    ...(moves && { moves }),
    ...(face && shares && { face: { ...face, shares } }),
  }
}

/** Places, xyz a time, at other times, which are between the first and the last. */
function resampled(places: Float32Array, from: Float32Array, to: Float32Array): Float32Array {
  let i = 0
  return Float32Array.from(
    [...to].flatMap((t) => {
      while (i < from.length - 2 && from[i + 1]! <= t) i++
      const share = Math.min(1, (t - from[i]!) / (from[i + 1]! - from[i]!))
      return [0, 1, 2].map((k) => places[i * 3 + k]! * (1 - share) + places[i * 3 + 3 + k]! * share)
    }),
  )
}

/** A loop ends where it begins; what does not ends at its end. */
const endless = (clip: Clip, isEnd: boolean): Clip => (isEnd ? { ...clip, loop: false } : clip)

function faceTrack({ face, times }: Clip): FaceTrack | undefined {
  if (!face) return undefined
  const thin = thinKeys(times, face.shares, face.names.length, FACE)
  return { names: face.names, times: thin.times, shares: thin.values }
}

const UP = new Vector3(0, 1, 0)

/** The clip with its way in it: the root goes along, and round, as far as the ground did. */
function travelling(clip: Clip): Clip {
  const { times, duration, travel, arc = 0 } = clip
  const root = clip.root.slice()
  const turns =
    clip.rotations[0]?.slice() ?? Float32Array.from({ length: times.length * 4 }, (_, i) => Number(i % 4 === 3))
  times.forEach((t, i) => {
    const { x, z, facing } = placeOnWay({ travel, arc }, t / duration)
    const turn = new Quaternion().setFromAxisAngle(UP, facing)
    const at = new Vector3().fromArray(root, i * 3).applyQuaternion(turn)
    at.add(new Vector3(x, 0, z)).toArray(root, i * 3)
    turn.multiply(new Quaternion().fromArray(turns, i * 4)).toArray(turns, i * 4)
  })
  return { ...clip, root, rotations: arc === 0 ? clip.rotations : [turns, ...clip.rotations.slice(1)] }
}

/** The way alone: where the ground under the figure is, and how it is turned. */
function wayOf({ times, duration, travel, arc = 0 }: Clip, tolerance = USUAL.place * 1000): Track[] {
  const [places, turns] = [new Float32Array(times.length * 3), new Float32Array(times.length * 4)]
  times.forEach((t, i) => {
    const { x, z, facing } = placeOnWay({ travel, arc }, t / duration)
    places.set([x, 0, z], i * 3)
    new Quaternion().setFromAxisAngle(UP, facing).toArray(turns, i * 4)
  })
  const track = { bone: 0, times, at: 'all' }
  const goes: Track = { ...track, path: 'translation', values: places }
  const all: Track[] = arc === 0 ? [goes] : [goes, { ...track, path: 'rotation', values: turns }]
  // a way turns what is as far off as itself
  const place = tolerance / 1000
  return thinned(all, () => Math.min(USUAL.turn, place / 2 / Math.max(LEAST_REACH, Math.abs(travel))), place)
}

function tracksOf({ times, rotations, root, moves = [] }: Clip, bones: readonly Bone[]): Track[] {
  const places = bones.flatMap(({ at }, bone): Track[] => {
    const own = moves[bone]
    const values = own && Float32Array.from(own, (v, i) => v + at[i % 3]!)
    return values ? [{ bone, path: 'translation', times, values, at: 'all' }] : []
  })
  const turns = bones.flatMap((_, bone): Track[] => {
    const values = rotations[bone]
    return values ? [{ bone, path: 'rotation', times, values, at: 'all' }] : []
  })
  return [...turns, ...places, { bone: 0, path: 'translation', times, values: root, at: 'all' }]
}

const thinned = (tracks: readonly Track[], turn: (bone: number) => number, place: number): Track[] =>
  tracks.map((track) => {
    const [stride, tolerance] = track.path === 'rotation' ? [4, turn(track.bone)] : [3, place]
    const { keys, times, values } = thinKeys(track.times, track.values, stride, tolerance)
    return { ...track, times, values, at: keys.join() }
  })

/** A bone that reaches no farther turns as if it did, metres: what is shorter is not seen to turn. */
const LEAST_REACH = 0.05

/** From each joint to the farthest end of what hangs on it, metres. */
function reaches(bones: readonly Bone[]): number[] {
  const parents = bones.map((b) => b.parent)
  return bones.map(({ at }, top) => {
    const from = new Vector3(...at)
    const ends = [...bonesBelow(parents, top)].map((b) => from.distanceTo(new Vector3(...bones[b]!.tail)))
    return Math.max(LEAST_REACH, ...ends)
  })
}

/** Posed by its keys alone, how far joints are from where the clip has them, at every sample. */
function errorOf(clip: Clip, all: readonly Track[], bones: readonly Bone[]): number {
  // a pose has no place of any but the root
  const tracks = all.filter((t) => t.path === 'rotation' || t.bone === 0)
  const [there, here] = [createWorldPose(bones), createWorldPose(bones)]
  const places = tracks.map(() => 0)
  const [pose, own] = [restPose(bones), restPose(bones)]
  let square = 0
  clip.times.forEach((time, s) => {
    clip.rotations.forEach((r, b) => {
      for (let k = 0; r && k < 4; k++) own.turns[b * 4 + k] = r[s * 4 + k]!
    })
    for (let k = 0; k < 3; k++) own.root[k] = clip.root[s * 3 + k]!
    tracks.forEach((track, i) => (places[i] = sample(track, time, places[i]!, pose)))
    solveForward(bones, own, there)
    solveForward(bones, pose, here)
    for (let b = 0; b < there.joints.length; b += 3) {
      const x = there.joints[b]! - here.joints[b]!
      const y = there.joints[b + 1]! - here.joints[b + 1]!
      const z = there.joints[b + 2]! - here.joints[b + 2]!
      square = Math.max(square, x * x + y * y + z * z)
    }
  })
  return Math.sqrt(square)
}

/** Puts what a track says at a time into a pose, from key `from` on; returns the key it found. */
function sample({ bone, path, times, values }: Track, time: number, from: number, pose: Pose): number {
  let i = from
  while (i < times.length - 2 && times[i + 1]! <= time) i++
  const next = Math.min(i + 1, times.length - 1)
  const span = times[next]! - times[i]!
  const share = span > 0 ? Math.min(1, Math.max(0, (time - times[i]!) / span)) : 0
  const isTurn = path === 'rotation'
  const stride = isTurn ? 4 : 3
  const out = isTurn ? pose.turns : pose.root
  const at = isTurn ? bone * 4 : 0
  let square = 0
  for (let k = 0; k < stride; k++) {
    const a = values[i * stride + k]!
    const b = values[next * stride + k]!
    const value = a + (b - a) * share
    out[at + k] = value
    square += value * value
  }
  // a turn that was gone through by a line is none of length one
  if (stride === 4) for (let k = 0; k < 4; k++) out[at + k]! /= Math.sqrt(square)
  return i
}
