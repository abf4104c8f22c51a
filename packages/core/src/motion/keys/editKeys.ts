import { MOST_KEYS, SAME_TIME, type FaceKey, type KeptClip, type KeyTrack, type PoseKey } from './keptClip.ts'
import type { Ease } from './easing.ts'

/** What a key of either kind says, without when and how. */
export type KeyContent<T extends KeyTrack> = T extends 'poses'
  ? Pick<PoseKey, 'turns' | 'root'>
  : Pick<FaceKey, 'shares'>
type KeyOf<T extends KeyTrack> = KeptClip[T][number]

/** Times are kept to a millisecond. */
const inTime = (time: number, { duration }: Pick<KeptClip, 'duration'>) =>
  Math.round(Math.min(duration, Math.max(0, time)) * 1000) / 1000

/** The number of the key at a time; -1 where there is none. */
export const keyIndexAt = (keys: readonly { at: number }[], time: number): number =>
  keys.findIndex(({ at }) => Math.abs(at - time) < SAME_TIME)

const withKeys = <T extends KeyTrack>(clip: KeptClip, track: T, keys: readonly KeyOf<T>[]): KeptClip => ({
  ...clip,
  [track]: [...keys].sort((a, b) => a.at - b.at),
})

/**
 * Sets what there is at a time: in the key that is there, or in a new one, which goes on as the one before it does. A clip
 * that has as many keys as it may have stays as it is.
 */
export function setKey<T extends KeyTrack>(
  clip: KeptClip,
  track: T,
  time: number,
  content: KeyContent<T>,
  ease?: Ease,
): KeptClip {
  const at = inTime(time, clip)
  const keys: readonly KeyOf<T>[] = clip[track]
  const index = keyIndexAt(keys, at)
  const own = ease ?? keys[index]?.ease ?? keys.findLast((k) => k.at < at)?.ease ?? 'soft'
  const key = { at: keys[index]?.at ?? at, ease: own, ...content } as KeyOf<T>
  if (index >= 0) return withKeys(clip, track, keys.with(index, key))
  return keys.length < MOST_KEYS ? withKeys(clip, track, [...keys, key]) : clip
}

/** Takes away the key at a time, if there is one. */
export const removeKey = (clip: KeptClip, track: KeyTrack, time: number): KeptClip => {
  const index = keyIndexAt(clip[track], time)
  return index < 0 ? clip : withKeys(clip, track, clip[track].toSpliced(index, 1))
}

/** How the key at a time goes over into the next. */
export function setEase<T extends KeyTrack>(clip: KeptClip, track: T, time: number, ease: Ease): KeptClip {
  const keys: readonly KeyOf<T>[] = clip[track]
  const index = keyIndexAt(keys, time)
  return index < 0 ? clip : withKeys(clip, track, keys.with(index, { ...keys[index]!, ease }))
}

/** Brings the key at a time to another; one that is there already goes. */
export function moveKey(clip: KeptClip, track: KeyTrack, from: number, to: number): KeptClip {
  const key = clip[track][keyIndexAt(clip[track], from)]
  const at = inTime(to, clip)
  if (!key || at === key.at) return clip
  const others = clip[track].filter((k) => k !== key && Math.abs(k.at - at) >= SAME_TIME)
  return withKeys(clip, track, [...others, { ...key, at }])
}

/** Makes a clip longer or shorter: with its keys, which stay where they are in it, or by time alone, where later ones go. */
export function setDuration(clip: KeptClip, duration: number, stretched: boolean): KeptClip {
  const k = duration / clip.duration
  const next = { ...clip, duration }
  const of = <K extends { at: number }>(keys: readonly K[]): K[] => {
    const moved = keys.map((key) => ({ ...key, at: stretched ? inTime(key.at * k, next) : key.at }))
    // what is squeezed to one time is one key: the first
    return moved.filter(({ at }, i) => at <= duration && (i === 0 || at - moved[i - 1]!.at >= SAME_TIME))
  }
  return { ...next, poses: of(clip.poses), faces: of(clip.faces) }
}

/** Puts keys in the place of all those of a span of time. */
export function replaceKeys<T extends KeyTrack>(
  clip: KeptClip,
  track: T,
  [from, to]: readonly [number, number],
  keys: readonly KeyOf<T>[],
): KeptClip {
  const others: readonly KeyOf<T>[] = clip[track]
  const outside = others.filter(({ at }) => at <= from - SAME_TIME || at >= to + SAME_TIME)
  return withKeys(clip, track, [...outside, ...keys])
}
