import type { Figure } from '../build.ts'
import type { Clip } from '../motion/Clip.ts'
import { springBodyOf, springClip } from '../motion/springs.ts'
import type { Recipe } from '../recipe/schema.ts'

/** Clips of a figure in which its chains swing as its recipe says. */
export function sprungClips(
  clips: readonly Clip[],
  { mesh, skeleton }: Pick<Figure, 'mesh' | 'skeleton'>,
  { springs }: Pick<Recipe, 'springs'>,
): Clip[] {
  const limbs = new Set(skeleton.limbs.map((l) => l.id))
  if (!springs || !Object.keys(springs).some((id) => limbs.has(id))) return [...clips]
  const body = springBodyOf(mesh, skeleton)
  return clips.map((clip) => springClip(clip, skeleton, springs, body))
}
