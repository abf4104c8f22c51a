import type { Figure } from '../build.ts'
import type { ClipDef } from '../kit/schema.ts'
import type { Clip } from '../motion/Clip.ts'
import { fitClip } from '../motion/fitClip.ts'
import { legLength, legsOf } from '../motion/Leg.ts'
import { flanksOf } from '../motion/keepArmsOut.ts'
import { bellyOf, trunkOf } from '../motion/keepTrunkUp.ts'
import { solesOf } from '../motion/soles.ts'
import { clipsFor } from '../recipe/clips.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'

/**
 * The clips that a figure's body can play: those for its plan, fitted to it and its shoes.
 *
 * @param wanted which of them; all if absent
 */
export function clipsOf(
  figure: Pick<Figure, 'mesh' | 'skeleton'>,
  kits: Kits,
  { body }: Pick<Recipe, 'body'>,
  wanted: (clip: ClipDef) => boolean = () => true,
): Clip[] {
  const { mesh, skeleton } = figure
  const clips = clipsFor(kits, body).filter(wanted)
  if (clips.length === 0) return []
  const soles = solesOf(mesh, skeleton)
  const flanks = flanksOf(mesh, skeleton)
  const belly = bellyOf(mesh, skeleton)
  const trunk = clips.some((c) => c.lies) ? trunkOf(mesh, skeleton) : null
  return clips.map((clip) => fitClip(clip, skeleton, soles, flanks, clip.lies ? trunk : belly))
}

/** What is to be known of a clip before it is fitted to a figure. */
export type ListedClip = Pick<Clip, 'id' | 'name' | 'duration' | 'loop' | 'travel'>

/** All clips a figure's body can play, none of them worked out yet. */
export function listClips(
  { skeleton }: Pick<Figure, 'skeleton'>,
  kits: Kits,
  { body }: Pick<Recipe, 'body'>,
): ListedClip[] {
  return clipsFor(kits, body).map((clip) => {
    const { id, name, duration, loop } = clip
    return { id, name, duration, loop, travel: clip.travel * legLength(legsOf(skeleton, clip), skeleton) }
  })
}
