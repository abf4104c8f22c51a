import type { Pose } from '../../rig/Pose.ts'
import type { Skeleton } from '../../rig/Skeleton.ts'
import { thinKeys } from '../thinKeys.ts'
import { poseAt, type Clip } from '../Clip.ts'
import { keepPose } from '../poses/keptPose.ts'
import { replaceKeys } from './editKeys.ts'
import { CLIP_SPAN, MOST_KEYS, newClip, SAME_TIME, type FaceKey, type KeptClip } from './keptClip.ts'

/** A moment that was recorded. */
export interface Sample<T> {
  /** Seconds in the clip. */
  at: number
  value: T
}

/** The parts of a turn may be off by so much where keys are left out: a good degree. */
const TURN_OFF = 0.012
/** … and where the root stands, metres. */
const ROOT_OFF = 0.006
/** … and how much there is of an expression. */
const SHARE_OFF = 0.02
/** No more keys than these a second: what is denser is the hand's trembling. */
const MOST_A_SECOND = 12
/** … of a clip, whose movements are meant. */
const MOST_OF_CLIPS = 18
/** Moments of a clip that is made keys of, a second. */
const SAMPLED = 30
/** By so much more may be off in each further attempt at having fewer. */
const COARSER = 1.5

/**
 * Takes up poses that were recorded: as few keys as hold them, in the place of those of the time they took; coarser where
 * the clip may not have as many. Does nothing for fewer than two, or where it has no room for two.
 *
 * @param most keys a second
 */
export function recordPoses(
  clip: KeptClip,
  samples: readonly Sample<Pose>[],
  skeleton: Pick<Skeleton, 'bones' | 'limbs' | 'pairs'>,
  most = MOST_A_SECOND,
): KeptClip {
  const bones = skeleton.bones.length
  const row = ({ turns, root }: Pose, before: Float32Array | null) => {
    const out = new Float32Array(bones * 4 + 3)
    for (let b = 0; b < bones * 4; b += 4) {
      // two opposite quaternions are one turn: the one nearer to what came before
      const dot = before ? [0, 1, 2, 3].reduce((s, k) => s + before[b + k]! * turns[b + k]!, 0) : 1
      for (let k = 0; k < 4; k++) out[b + k] = (dot < 0 ? -1 : 1) * turns[b + k]!
    }
    root.forEach((v, k) => (out[bones * 4 + k] = (v * TURN_OFF) / ROOT_OFF))
    return out
  }
  const keys = keysOf(samples, row, TURN_OFF, [most, roomFor(clip.poses, samples)]).map(({ at, value }, i, all) => {
    const { turns, root } = keepPose(value, skeleton, { name: clip.name, plan: clip.plan })
    // a hand that was already on its way does not begin slowly
    const ease = i === 0 || i >= all.length - 2 ? ('even' as const) : ('flow' as const)
    return { at, ease, turns, root }
  })
  return keys.length < 2 ? clip : replaceKeys(clip, 'poses', spanOf(keys), keys)
}

/** The same of faces. */
export function recordFaces(clip: KeptClip, samples: readonly Sample<FaceKey['shares']>[]): KeptClip {
  const names = [...new Set(samples.flatMap(({ value }) => Object.keys(value)))]
  const row = (shares: FaceKey['shares']) =>
    Float32Array.from(names.length ? names : [''], (name) => (Object.hasOwn(shares, name) ? shares[name]! : 0))
  const keys = keysOf(samples, row, SHARE_OFF, [MOST_A_SECOND, roomFor(clip.faces, samples)]).map(({ at, value }) => ({
    ...{ at, ease: 'even' as const },
    shares: Object.fromEntries(Object.entries(value).filter(([, v]) => v > 0)),
  }))
  return keys.length < 2 ? clip : replaceKeys(clip, 'faces', spanOf(keys), keys)
}

const spanOf = (keys: readonly { at: number }[]): [number, number] => [keys[0]!.at, keys.at(-1)!.at]

/** How many keys a clip may have in the time of some samples, with those it has at other times. */
function roomFor(keys: readonly { at: number }[], samples: readonly { at: number }[]): number {
  const [from, to] = [samples[0]?.at ?? 0, samples.at(-1)?.at ?? 0]
  return MOST_KEYS - keys.filter(({ at }) => at <= from - SAME_TIME || at >= to + SAME_TIME).length
}

/** Those of the samples that hold all of them by lines, to a tolerance. */
function keysOf<T>(
  samples: readonly Sample<T>[],
  row: (value: T, before: Float32Array | null) => Float32Array,
  tolerance: number,
  [aSecond, room]: readonly [number, number],
): Sample<T>[] {
  // one at a time: what the clock gave twice is said once, the last way
  const apart = samples.filter(({ at }, i) => i === samples.length - 1 || samples[i + 1]!.at - at >= SAME_TIME)
  if (apart.length < 2 || room < 2) return []
  const rows: Float32Array[] = []
  for (const { value } of apart) rows.push(row(value, rows.at(-1) ?? null))
  const stride = rows[0]!.length
  const values = new Float32Array(rows.length * stride)
  rows.forEach((r, i) => values.set(r, i * stride))
  const times = Float32Array.from(apart, ({ at }) => at)
  const most = Math.min(room, Math.max(2, Math.ceil((apart.at(-1)!.at - apart[0]!.at) * aSecond)))
  for (let off = tolerance; ; off *= COARSER) {
    const { keys } = thinKeys(times, values, stride, off)
    // from a whole turn on two keys are left, whatever they are
    if (keys.length <= most || off > 8)
      return [...keys].map((k) => ({ ...apart[k]!, at: Math.round(apart[k]!.at * 1000) / 1000 }))
  }
}

/** A clip of any kind as keys, to be changed: on the spot, as it plays on this figure. */
export function keysOfClip(
  clip: Clip,
  skeleton: Pick<Skeleton, 'bones' | 'limbs' | 'pairs'>,
  { name, plan }: Pick<KeptClip, 'name' | 'plan'>,
): KeptClip {
  const duration = Math.min(CLIP_SPAN[1], Math.max(CLIP_SPAN[0], Math.round(clip.duration * 1000) / 1000))
  const count = Math.max(2, Math.round(duration * SAMPLED) + 1)
  const samples = Array.from({ length: count }, (_, i) => {
    const at = (i * duration) / (count - 1)
    return { at, value: poseAt({ ...clip, loop: false }, at) }
  })
  const kept = recordPoses({ ...newClip(name, plan), duration, loop: clip.loop }, samples, skeleton, MOST_OF_CLIPS)
  if (!clip.loop) return kept
  // where it goes round, its end is its beginning, and it does not stop there
  return { ...kept, poses: kept.poses.filter(({ at }) => at < duration).map((key) => ({ ...key, ease: 'flow' })) }
}
