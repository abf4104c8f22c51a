import type { Clip } from './Clip.ts'

/** The way is how the root goes on the mean of so many seconds: what is quicker is a sway, and stays. */
const WINDOW = 1
/** Who goes no farther than this stays where they are anyhow, metres. */
const GOES = 0.3

/** How far the root gets from where it begins, level, metres. */
export function reachOf({ root }: Pick<Clip, 'root'>): number {
  let far = 0
  for (let i = 0; i < root.length; i += 3) far = Math.max(far, Math.hypot(root[i]! - root[0]!, root[i + 2]! - root[2]!))
  return far
}

/** A clip with the way taken out of it: the figure moves as it does, and stays over where it began. One that stays anyhow is left as it is. */
export function onTheSpot(clip: Clip): Clip {
  const { root, times } = clip
  if (reachOf(clip) < GOES) return clip
  const n = times.length
  const half = Math.max(1, Math.round((WINDOW / 2 / Math.max(clip.duration, 1e-6)) * (n - 1)))
  const out = root.slice()
  for (const k of [0, 2]) {
    for (let s = 0; s < n; s++) {
      // as wide to either side as there is room: a straight way comes out straight up to its ends
      const room = Math.min(half, s, n - 1 - s)
      let sum = 0
      for (let m = s - room; m <= s + room; m++) sum += root[m * 3 + k]!
      out[s * 3 + k] = root[s * 3 + k]! - sum / (2 * room + 1) + root[k]!
    }
  }
  return { ...clip, root: out }
}
