import type { Figure } from '../build.ts'
import { poseAt } from '../motion/Clip.ts'
import { keepPose, type KeptPose } from '../motion/poses/keptPose.ts'
import { readyPosesFor } from '../recipe/clips.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import { clipsOf } from './clips.ts'

/** A pose of a kit on a figure. */
export interface ReadyPoseOn {
  id: string
  pose: KeptPose
}

/** The poses that are ready for a figure's body, fitted to it as their clips are, without the figure's own dials. */
export function readyPosesOf(
  figure: Pick<Figure, 'mesh' | 'skeleton'>,
  kits: Kits,
  { body }: Pick<Recipe, 'body'>,
): ReadyPoseOn[] {
  const ready = readyPosesFor(kits, body)
  const wanted = new Set(ready.map((pose) => pose.clip))
  const clips = new Map(clipsOf(figure, kits, { body }, (clip) => wanted.has(clip.id)).map((clip) => [clip.id, clip]))
  return ready.flatMap(({ id, name, clip: from, at, of }) => {
    const clip = clips.get(from)
    if (!clip) return []
    // a loop ends where it begins; what does not ends at its end
    const pose = poseAt({ ...clip, loop: false }, at * clip.duration)
    return [{ id, pose: keepPose(pose, figure.skeleton, { name, plan: of.plan }) }]
  })
}
