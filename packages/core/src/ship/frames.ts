import { Quaternion, Vector3 } from 'three'
import { keysAround } from '../motion/foreign/ForeignMotion.ts'
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
  // times are kept short: half a frame must not be taken for a little less
  const count = Math.max(1, Math.round(end * rate + 1e-3)) + 1
  const step = end / (count - 1)
  const times = Array.from({ length: count }, (_, i) => i * step)
  const joints = [...above, ...bones]
  const over = above.at(-1) ?? null
  const own = joints.map(({ at, parent }, j) => {
    const isAbove = j < above.length
    const from = isAbove ? above[parent] : parent < 0 ? over : bones[parent]
    const start = from ? new Vector3(...from.at) : new Vector3()
    const list = (isAbove ? way : tracks).filter((t) => t.bone === (isAbove ? j : j - above.length))
    return {
      start,
      rest: new Vector3(...at).sub(start),
      turn: list.find((t) => t.path === 'rotation'),
      place: list.find((t) => t.path === 'translation'),
    }
  })
  const locals = times.map((time) =>
    own.map(({ start, rest, turn, place }): Local => ({
      // tracks say where joints are, not how far from the one above
      at: place ? placeAt(place, time).sub(start) : rest.clone(),
      turn: turn ? turnAt(turn, time) : new Quaternion(),
    })),
  )
  return { times, step, locals }
}

function placeAt({ times, values }: Track, time: number): Vector3 {
  const { a, b, u } = keysAround(times, times.length, time)
  return new Vector3().fromArray(values, a * 3).lerp(new Vector3().fromArray(values, b * 3), u)
}

function turnAt({ times, values }: Track, time: number): Quaternion {
  const { a, b, u } = keysAround(times, times.length, time)
  return new Quaternion().fromArray(values, a * 4).slerp(new Quaternion().fromArray(values, b * 4), u)
}
