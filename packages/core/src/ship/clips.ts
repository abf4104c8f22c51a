import type { Figure } from '../build.ts'
import type { ClipDef } from '../kit/schema.ts'
import type { Clip } from '../motion/Clip.ts'
import { dialClip, dialsFor, playedAt, spanOf, type NumberDial } from '../motion/dials.ts'
import { fitClip } from '../motion/fitClip.ts'
import { unitOf } from '../motion/Leg.ts'
import { flanksOf } from '../motion/keepArmsOut.ts'
import { bellyOf, trunkOf } from '../motion/keepTrunkUp.ts'
import { solesOf } from '../motion/soles.ts'
import { clipsFor } from '../recipe/clips.ts'
import { sprungClips } from './sprungClips.ts'
import { dialsOf } from '../recipe/dials.ts'
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
  recipe: Pick<Recipe, 'body' | 'dials' | 'springs'>,
  wanted: (clip: ClipDef) => boolean = () => true,
): Clip[] {
  const { mesh, skeleton } = figure
  const clips = dialledClips(kits, recipe).filter(wanted)
  if (clips.length === 0) return []
  const soles = solesOf(mesh, skeleton)
  const flanks = flanksOf(mesh, skeleton)
  const belly = bellyOf(mesh, skeleton)
  const trunk = clips.some((c) => c.lies) ? trunkOf(mesh, skeleton) : null
  const played = clips.map((clip) => {
    const fitted = fitClip(clip, skeleton, soles, flanks, clip.lies ? trunk : belly)
    return playedAt(fitted, dialsOf(recipe, clip.id))
  })
  return sprungClips(played, figure, recipe)
}

const planOf = (kits: Kits, { body }: Pick<Recipe, 'body'>) => kits.get(body.kit)?.bodies.get(body.id)?.plan

/** The clips a body can play, as the figure's dials have them. */
function dialledClips(kits: Kits, recipe: Pick<Recipe, 'body' | 'dials'>): ClipDef[] {
  const clips = clipsFor(kits, recipe.body)
  const plan = planOf(kits, recipe)
  if (!plan || !recipe.dials) return clips
  return clips.map((clip) => {
    const dials = dialsOf(recipe, clip.id)
    return Object.keys(dials).length ? dialClip(clip, plan, dials) : clip
  })
}

/** What is to be known of a clip before it is fitted to a figure. */
export type ListedClip = Pick<Clip, 'id' | 'name' | 'duration' | 'loop' | 'travel'> & {
  /** Those that make sense for it, as it was made. */
  dials: NumberDial[]
}

/** All clips a figure's body can play, none of them worked out yet. */
export function listClips(
  { skeleton }: Pick<Figure, 'skeleton'>,
  kits: Kits,
  recipe: Pick<Recipe, 'body' | 'dials'>,
): ListedClip[] {
  const plan = planOf(kits, recipe)
  return dialledClips(kits, recipe).map((clip) => {
    const { id, name } = clip
    const set = dialsOf(recipe, id)
    const [from, to] = spanOf(set)
    const share = to - from
    return {
      ...{ id, name, duration: (clip.duration * share) / (set.pace ?? 1), loop: clip.loop && share >= 1 },
      travel: clip.travel * share * unitOf(skeleton),
      dials: plan ? dialsFor(clip, plan) : [],
    }
  })
}
