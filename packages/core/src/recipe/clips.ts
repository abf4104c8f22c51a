import { BODY_PLANS } from '../kit/plans/index.ts'
import { bodyOf, type Manifests } from '../kit/library.ts'
import type { ClipDef, ReadyPoseDef } from '../kit/schema.ts'
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
export function clipsFor(kits: Manifests, body: Recipe['body']): ClipDef[] {
  const clips = new Map<string, ClipDef>()
  for (const kit of kitsWithClips(kits, body)) for (const c of kit.clips) if (!clips.has(c.id)) clips.set(c.id, c)
  return [...clips.values()]
}

/** A pose that is ready for a body, and the clip it is a moment of. */
export interface ReadyPose extends ReadyPoseDef {
  of: ClipDef
}

/** The poses that are ready for a body: those of the kits its clips are from. */
export function readyPosesFor(kits: Manifests, body: Recipe['body']): ReadyPose[] {
  const clips = new Map(clipsFor(kits, body).map((c) => [c.id, c]))
  const poses = new Map<string, ReadyPose>()
  for (const { poses: own } of kitsWithClips(kits, body))
    for (const pose of own) {
      const of = clips.get(pose.clip)
      if (of && !poses.has(pose.id)) poses.set(pose.id, { ...pose, of })
    }
  return [...poses.values()]
}

function kitsWithClips(kits: Manifests, body: Recipe['body']): { clips: ClipDef[]; poses: ReadyPoseDef[] }[] {
  const home = body.kit
  const kit = kits.get(home)
  const plan = bodyOf(kits, body)?.plan
  if (!kit || plan === undefined) return []
  const ofPlan = ({ manifest }: typeof kit) => ({
    clips: manifest.clips.filter((clip) => clip.plan === plan),
    poses: manifest.poses ?? [],
  })
  const own = ofPlan(kit)
  if (own.clips.length || !BODY_PLANS.has(plan) || kit.manifest.plans?.some((p) => p.id === plan)) return [own]
  return [...kits]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .filter(([name, { manifest }]) => name !== home && !manifest.plans?.some((p) => p.id === plan))
    .map(([, other]) => ofPlan(other))
}
