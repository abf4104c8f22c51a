import { hasErrors, type Problem } from '../base/problem.ts'
import { reducerReady } from '../budget/reduceMesh.ts'
import type { Builder, Figure } from '../build.ts'
import type { Clip } from '../motion/Clip.ts'
import { wantedBy } from '../recipe/clips.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { packerReady } from '../scene/meshopt.ts'
import type { HelperPoint } from '../rig/helperPoints.ts'
import { keyClip, type KeyedClip } from './clipKeys.ts'
import { clipsOf } from './clips.ts'
import { conform, type Conformed, type Leaving } from './conform.ts'
import { fillPattern, patternFaults } from './names.ts'
import { restInPose } from './restInPose.ts'
import { restOf } from './restOf.ts'

/** A figure ready to leave, by the conventions of its target; every format is written from this. */
export interface Prepared {
  recipe: Recipe
  target: Target
  /** As it was built within its target, and as it stands there at rest, on its own skeleton. */
  built: Figure
  standing: Figure
  /** As it is written, with the place of each of our bones in its skeleton. */
  leaving: Leaving
  place: Conformed['place']
  clips: KeyedClip[]
  points: HelperPoint[]
}

export interface PrepareOptions {
  lods: boolean
  /** Which clips go with it; those of its kit that the target wants where nothing is said. */
  clips?: (figure: Figure) => Clip[]
}

/**
 * Builds a figure within its target, and brings it, its clips and its helper points to the target's rest pose, skeleton,
 * names and size.
 *
 * @returns nothing prepared where the recipe has errors or the target asks for what cannot be
 */
export async function prepare(
  builder: Builder,
  kits: Kits,
  recipe: Recipe,
  target: Target,
  { lods, clips: chosen }: PrepareOptions,
): Promise<{ prepared: Prepared | null; problems: Problem[] }> {
  const { names = {} } = target.convention
  const unknown = Object.entries(names).flatMap(([of, p]) => patternFaults(p, `target/convention/names/${of}`))
  if (unknown.length) return { prepared: null, problems: unknown }
  await Promise.all([reducerReady, packerReady])
  const { figure: built, problems } = builder.build(recipe, target, { reduce: true, lods })
  if (!built || hasErrors(problems)) return { prepared: null, problems }
  const { plan } = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!
  const { value: rest, problems: restless } = restOf(built, plan, target)
  const rested = rest && restInPose(built, rest)
  const standing = rested?.figure ?? built
  const { value: conformed, problems: unmet } = conform(standing, target)
  const told = [...problems, ...restless, ...unmet]
  if (!conformed) return { prepared: null, problems: told }
  const { figure: leaving, place } = conformed
  const clips = (chosen?.(built) ?? clipsOf(built, kits, recipe, wantedBy(target))).map((clip) => {
    const own = conformed.clip(rested?.clip(clip) ?? clip)
    const keyed = keyClip(own, leaving.bones, target, leaving.above.length > 0)
    const fill = { name: recipe.name, target: target.id, clip: keyed.name }
    return names.clip ? { ...keyed, name: fillPattern(names.clip, fill) } : keyed
  })
  const points = target.helperPoints === false ? [] : builder.helperPoints(recipe, target)
  return {
    prepared: {
      ...{ recipe, target, built, standing, leaving, place, clips },
      points: points.map((p) => conformed.point(rested?.point(p) ?? p)),
    },
    problems: told,
  }
}
