import { BODY_PLANS } from '../kit/plans/index.ts'
import type { ClipDef } from '../kit/schema.ts'
import type { Kits } from './resolve.ts'
import type { Recipe } from './schema.ts'
import type { Target } from './target.ts'

/** Which clips go along with a figure for a game: those it names; where it names none, those that no kit holds back. */
export function wantedBy({ keepClips: keep }: Pick<Target, 'keepClips'>): (clip: ClipDef) => boolean {
  if (keep === undefined) return ({ optional }) => !optional
  return keep === 'all' ? () => true : ({ id }) => keep.includes(id)
}

/** What a target keeps once clips are chosen by their names: all of a name; of what is not here now, what it kept before. */
export function clipsNamed(
  { keepClips: before }: Pick<Target, 'keepClips'>,
  here: readonly Pick<ClipDef, 'id' | 'name'>[],
  names: readonly string[],
): string[] {
  const known = new Set(here.map((c) => c.id))
  const elsewhere = Array.isArray(before) ? before.filter((id) => !known.has(id)) : []
  return [...new Set([...here.filter((c) => names.includes(c.name)).map((c) => c.id), ...elsewhere])]
}

/**
 * Those of the body's own kit; where that has none, as a kit made of somebody's figure, and the plan is one that comes
 * with the workshop, those of the other kits, each id once.
 */
export function clipsFor(kits: Kits, { kit: home, id }: Recipe['body']): ClipDef[] {
  const kit = kits.get(home)
  const plan = kit?.bodies.get(id)?.plan.id
  if (!kit || plan === undefined) return []
  const own = kit.manifest.clips.filter((clip) => clip.plan === plan)
  if (own.length || !BODY_PLANS.has(plan) || kit.manifest.plans?.some((p) => p.id === plan)) return own
  const clips = new Map<string, ClipDef>()
  for (const [name, { manifest }] of [...kits].sort(([a], [b]) => (a < b ? -1 : 1)))
    if (name !== home && !manifest.plans?.some((p) => p.id === plan))
      for (const clip of manifest.clips) if (clip.plan === plan && !clips.has(clip.id)) clips.set(clip.id, clip)
  return [...clips.values()]
}
