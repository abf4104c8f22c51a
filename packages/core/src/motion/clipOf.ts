import type { Bone } from '../rig/Skeleton.ts'
import { shareTwists } from '../rig/twist.ts'
import type { Clip } from './Clip.ts'
import type { Moment } from './plantFeet.ts'

/**
 * Moments as a clip, the first and the last at its ends. Twist bones take their share.
 *
 * @param times of the moments, seconds, rising; even where nothing is said
 */
export function clipOf(
  said: Pick<Clip, 'id' | 'name' | 'duration' | 'loop' | 'travel'>,
  bones: readonly Bone[],
  moments: readonly Pick<Moment, 'pose'>[],
  times = Float32Array.from(moments, (_, i) => (i * said.duration) / (moments.length - 1)),
): Clip {
  const n = moments.length
  const turns = bones.map(() => new Float32Array(4 * n))
  const root = new Float32Array(3 * n)
  moments.forEach(({ pose }, s) => {
    shareTwists(bones, pose)
    for (let b = 0; b < bones.length; b++) turns[b]!.set(pose.turns.subarray(b * 4, b * 4 + 4), s * 4)
    root.set(pose.root, s * 3)
  })
  return {
    ...said,
    times,
    rotations: turns.map((t) => (isStill(t) ? null : t)),
    root,
  }
}

function isStill(turns: Float32Array): boolean {
  for (let i = 0; i < turns.length; i += 4)
    if (Math.abs(turns[i]!) + Math.abs(turns[i + 1]!) + Math.abs(turns[i + 2]!) > 1e-6) return false
  return true
}
