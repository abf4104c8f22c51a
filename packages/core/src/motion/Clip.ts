import { Quaternion } from 'three'
import type { Pose } from '../rig/Pose.ts'

/** Motion over time, sampled over the bones of one skeleton. */
export interface Clip {
  id: string
  name: string
  duration: number // seconds
  loop: boolean
  times: Float32Array // seconds, rising; length n, at least 2
  /** Turn of each bone, xyzw a sample, as in `Pose`; length 4n; null where the bone never turns. */
  rotations: (Float32Array | null)[]
  /** Position of the root bone's joint, metres, xyz a sample; length 3n. */
  root: Float32Array
  /**
   * How far each bone's joint is from where it is at rest, in the axes of `rotations`, xyz a sample, length 3n; null where it
   * stays. Only of skeletons in which a bone does not hang on what carries it.
   */
  moves?: (Float32Array | null)[]
  /** Ground covered in one loop, metres; the clip itself stays on the spot. */
  travel: number
  /** How far the way turns to the left in one loop, radians; straight ahead where not said. */
  arc?: number
  /** What the face does meanwhile, where that is said. */
  face?: ClipFace
}

/** Expressions over time, over the face the figure has. */
export interface ClipFace {
  /** As they are called in the figure; see `expressionName`. */
  names: readonly string[]
  /** How much there is of each, 0 to 1, at the clip's times; `names.length` a sample. */
  shares: Float32Array
}

/** The samples a time lies between, the first of them and how far to the next, 0 to 1. */
function placeIn({ times, duration, loop }: Pick<Clip, 'times' | 'duration' | 'loop'>, time: number): [number, number] {
  const last = times.length - 1
  const t = loop ? time - Math.floor(time / duration) * duration : Math.min(duration, Math.max(0, time))
  // samples are evenly spaced when we made the clip, and may be anywhere when others did
  let i = Math.min(last - 1, Math.max(0, Math.floor((t / duration) * last)))
  while (i > 0 && times[i]! > t) i--
  while (i < last - 1 && times[i + 1]! <= t) i++
  const span = times[i + 1]! - times[i]!
  return [i, span > 0 ? Math.min(1, Math.max(0, (t - times[i]!) / span)) : 0]
}

/** How much there is of each expression of a clip's face at a time, between samples by a line. */
export function faceSharesAt(clip: Pick<Clip, 'times' | 'duration' | 'loop'>, face: ClipFace, time: number): number[] {
  const [i, s] = placeIn(clip, time)
  const n = face.names.length
  return face.names.map((_, k) => face.shares[i * n + k]! * (1 - s) + face.shares[(i + 1) * n + k]! * s)
}

/** The pose at a time, between samples as an engine plays them: turns by slerp, the root by a line. */
export function poseAt(clip: Clip, time: number): Pose {
  const [i, s] = placeIn(clip, time)
  const turns = new Float32Array(clip.rotations.length * 4)
  clip.rotations.forEach((r, b) => {
    if (!r) turns[b * 4 + 3] = 1
    else
      Quaternion.slerpFlat(
        turns as unknown as number[],
        b * 4,
        r as unknown as number[],
        i * 4,
        r as unknown as number[],
        (i + 1) * 4,
        s,
      )
  })
  const at = (k: number) => clip.root[i * 3 + k]! * (1 - s) + clip.root[(i + 1) * 3 + k]! * s
  return { turns, root: [at(0), at(1), at(2)] }
}
