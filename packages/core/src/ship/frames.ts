import { Quaternion, Vector3 } from 'three'
import type { KeyedClip, Track } from './clipKeys.ts'
import type { Leaving } from './conform.ts'

/** A joint from the one above it. */
export interface Local {
  at: Vector3
  turn: Quaternion
}

/** A clip as a row of moments, for formats that know no keys of their own: what a game that plays its keys would show. */
export interface Frames {
  /** Seconds, even, from 0 to the end. */
  times: number[]
  step: number
  /**
   * How each of `above` and then of the bones stands from the one above it: its turn from rest as in `Pose`, and its place
   * in axes that run with the figure's at rest. By frame, then by joint.
   */
  locals: Local[][]
}

/** Frames a second where a target says nothing. */
export const USUAL_RATE = 30

/** @param rate frames a second; the last frame is at the clip's end, so that they may be a little closer or farther apart */
export function framesOf(
  clip: KeyedClip,
  { bones, above }: Pick<Leaving, 'bones' | 'above'>,
  rate = USUAL_RATE,
): Frames {
  const { tracks, way = [] } = clip
  const end = Math.max(0, ...[...tracks, ...way].map((t) => t.times.at(-1) ?? 0))
  const count = Math.max(1, Math.round(end * rate)) + 1
  const step = end / (count - 1)
  const times = Array.from({ length: count }, (_, i) => i * step)
  const joints = [...above, ...bones]
  const over = above.at(-1) ?? null
  const rest = joints.map(({ at, parent }, j) => {
    const from = j < above.length ? above[parent] : parent < 0 ? over : bones[parent]
    return from ? at.map((v, k) => v - from.at[k]!) : at
  })
  const trackOf = (list: readonly Track[], bone: number, path: Track['path']) =>
    list.find((t) => t.bone === bone && t.path === path)
  const own = joints.map((_, j) => {
    const [list, bone] = j < above.length ? [way, j] : [tracks, j - above.length]
    return { turn: trackOf(list, bone, 'rotation'), place: trackOf(list, bone, 'translation') }
  })
  const locals = times.map((time) =>
    joints.map(({ parent }, j): Local => {
      const { turn, place } = own[j]!
      const at = new Vector3(...(rest[j] as [number, number, number]))
      if (place) {
        // tracks say where joints are, not how far from the one above
        const from = j < above.length ? above[parent] : parent < 0 ? over : bones[parent]
        at.copy(placeAt(place, time))
        if (from) at.sub(new Vector3(...from.at))
      }
      return { at, turn: turn ? turnAt(turn, time) : new Quaternion() }
    }),
  )
  return { times, step, locals }
}

/** The keys a time lies between, and how far it is from the first to the second. */
function keysAt({ times }: Track, time: number): [number, number, number] {
  const last = times.length - 1
  let i = 0
  while (i < last && times[i + 1]! <= time) i++
  const next = Math.min(last, i + 1)
  const span = times[next]! - times[i]!
  return [i, next, span > 0 ? Math.min(1, Math.max(0, (time - times[i]!) / span)) : 0]
}

function placeAt(track: Track, time: number): Vector3 {
  const [i, next, share] = keysAt(track, time)
  return new Vector3().fromArray(track.values, i * 3).lerp(new Vector3().fromArray(track.values, next * 3), share)
}

function turnAt(track: Track, time: number): Quaternion {
  const [i, next, share] = keysAt(track, time)
  return new Quaternion()
    .fromArray(track.values, i * 4)
    .slerp(new Quaternion().fromArray(track.values, next * 4), share)
}
