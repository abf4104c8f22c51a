import { Quaternion } from 'three'
import { localPlace } from './boneAxes.ts'
import type { KeyedClip, Track } from './clipKeys.ts'
import type { Leaving } from './conform.ts'

/**
 * A clip as nodes play it: each joint's turn and place from the one above it, in axes and units that are the joints'
 * at rest. Of bones that are not turned it is the clip itself.
 */
export function turnedClip(clip: KeyedClip, { bones, above }: Pick<Leaving, 'bones' | 'above'>): KeyedClip {
  const isTurned = bones.some(({ turn: [x, y, z], scale = 1 }) => x !== 0 || y !== 0 || z !== 0 || scale !== 1)
  if (!isTurned && above.length === 0) return clip
  const over = above.at(-1) ?? null
  const turned =
    (list: typeof bones, end: typeof over) =>
    (track: Track): Track => {
      const bone = list[track.bone]!
      const from = bone.parent >= 0 ? list[bone.parent]! : end
      const values = new Float32Array(track.values.length)
      if (track.path === 'translation') {
        for (let i = 0; i < values.length; i += 3) values.set(localPlace(from, [...track.values.subarray(i, i + 3)]), i)
        return { ...track, values }
      }
      const before = new Quaternion(...(from?.turn ?? [0, 0, 0, 1])).invert()
      const after = new Quaternion(...bone.turn)
      const q = new Quaternion()
      for (let i = 0; i < values.length; i += 4)
        q.fromArray(track.values, i).premultiply(before).multiply(after).toArray(values, i)
      return { ...track, values }
    }
  return {
    ...clip,
    tracks: clip.tracks.map(turned(bones, over)),
    ...(clip.way && { way: clip.way.map(turned(above, null)) }),
  }
}
