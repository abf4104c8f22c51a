import type { Builder, Figure } from '../build.ts'
import { hasErrors, type Problem } from '../base/problem.ts'
import { overBudget } from '../budget/costs.ts'
import { reducerReady } from '../budget/reduceMesh.ts'
import type { Clip } from '../motion/Clip.ts'
import { wantedBy } from '../recipe/clips.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { checkShipped, type ShippedCheck } from './checkShipped.ts'
import { keyClip, type KeyedClip } from './clipKeys.ts'
import { clipsOf } from './clips.ts'
import { conform } from './conform.ts'
import { restInPose } from './restInPose.ts'
import { restOf } from './restOf.ts'
import { writeFigure } from './writeFigure.ts'
import { writeObj } from './writeObj.ts'

export interface Shipped {
  /** Null when the recipe has errors. */
  bytes: Uint8Array | null
  figure: Figure | null
  check: ShippedCheck | null
  problems: Problem[]
}

/**
 * Builds a figure within its target, writes it with its clips, and reads it again.
 *
 * @param options.clips which clips go with it; those of its kit that the target wants where nothing is said
 */
export async function shipFigure(
  builder: Builder,
  kits: Kits,
  recipe: Recipe,
  target: Target,
  options: { lods: boolean; clips?: (figure: Figure) => Clip[] },
): Promise<Shipped> {
  const { built, rested, problems, restless } = await buildAtRest(builder, kits, recipe, target, options.lods)
  if (!built) return { bytes: null, figure: null, check: null, problems }
  const clips = options.clips?.(built) ?? clipsOf(built, kits, recipe, wantedBy(target))
  const { value: conformed, problems: unmet } = conform(rested?.figure ?? built, target)
  if (!conformed) return { bytes: null, figure: null, check: null, problems: [...problems, ...restless, ...unmet] }
  const { figure: leaving } = conformed
  const points = pointsOf(builder, recipe, target).map((p) => conformed.point(rested?.point(p) ?? p))
  const keyed = clips.map((clip) =>
    keyClip(conformed.clip(rested?.clip(clip) ?? clip), leaving.bones, target, leaving.above.length > 0),
  )
  const bytes = writeFigure({ figure: leaving, clips: keyed, points, recipe, target })
  // what the builder remembers stays as it is
  const figure = { ...built, costs: { ...built.costs, fileBytes: bytes.length } }
  const read = await checkShipped(
    bytes,
    recipe.name,
    (bone) => leaving.bones[conformed.place.get(bone) ?? -1]?.name ?? bone,
  )
  const check = { ...read, passed: [...read.passed, ...keysTold(keyed)] }
  // what was estimated is known now
  const known = problems.filter((p) => p.code !== 'over-budget')
  return {
    bytes,
    figure,
    check,
    problems: [...known, ...restless, ...unmet, ...overBudget(figure.costs, target), ...check.problems],
  }
}

/**
 * Builds a figure within its target and writes it as Wavefront OBJ, standing as the target has it.
 *
 * @returns files by name; null when the recipe has errors, or the format cannot hold what the target asks for
 */
export async function shipObj(
  builder: Builder,
  kits: Kits,
  recipe: Recipe,
  target: Target,
  { lods, stem }: { lods: boolean; stem: string },
): Promise<{ files: Map<string, Uint8Array> | null; problems: Problem[] }> {
  const { built, rested, problems, restless } = await buildAtRest(builder, kits, recipe, target, lods)
  if (!built) return { files: null, problems }
  const { value: files, problems: clash } = writeObj(rested?.figure ?? built, stem, target.convention)
  return { files, problems: [...problems, ...restless, ...clash] }
}

/** A figure within its target, and as the target has it stand, where that is otherwise than it was built; none with errors. */
async function buildAtRest(builder: Builder, kits: Kits, recipe: Recipe, target: Target, lods: boolean) {
  await reducerReady
  const { figure: built, problems } = builder.build(recipe, target, { reduce: true, lods })
  if (!built || hasErrors(problems)) return { built: null, rested: null, problems, restless: [] }
  const plan = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!.plan
  const { value: rest, problems: restless } = restOf(built, plan, target)
  return { built, rested: rest && restInPose(built, rest), problems, restless }
}

/** What was left of the keys of all clips, and what that costs. */
function keysTold(clips: readonly KeyedClip[]): string[] {
  if (clips.length === 0) return []
  const sum = (of: (clip: KeyedClip) => number) => clips.reduce((all, clip) => all + of(clip), 0).toLocaleString('en')
  const error = Math.max(...clips.map((c) => c.error())) * 1000
  return [
    `Clips have ${sum((c) => c.kept)} keys of ${sum((c) => c.of)}; no joint is off by more than ${error.toFixed(1)} mm.`,
  ]
}

/** The helper points that a target wants of a figure. */
function pointsOf(builder: Builder, recipe: Recipe, target: Target) {
  return target.helperPoints === false ? [] : builder.helperPoints(recipe, target)
}

/** File names from a pattern: {name}, {number} and {target} are filled in; the rest is made safe. */
export function fileName(pattern: string, fill: { name: string; number: number; target: string }): string {
  const filled = pattern
    .replaceAll('{name}', fill.name)
    .replaceAll('{number}', String(fill.number).padStart(3, '0'))
    .replaceAll('{target}', fill.target)
  const safe = filled
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9_-]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase()
    .slice(0, 80)
  return safe || 'figure'
}

/** One name for each of many figures; a name that is taken gets its number behind it. */
export function fileNames(pattern: string, names: readonly string[], target: string): string[] {
  const taken = new Set<string>()
  return names.map((name, i) => {
    const base = fileName(pattern, { name, number: i + 1, target })
    let free = base
    for (let n = i + 1; taken.has(free); n++) free = `${base}-${n}`
    taken.add(free)
    return free
  })
}
