import type { Builder, Figure } from '../build.ts'
import type { Problem } from '../base/problem.ts'
import { overBudget } from '../budget/costs.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { checkShipped, type ShippedCheck } from './checkShipped.ts'
import type { KeyedClip } from './clipKeys.ts'
import { prepare, type Prepared, type PrepareOptions } from './prepare.ts'
import { gltfTarget, writeFigure } from './writeFigure.ts'

export interface Shipped {
  /** Null when the recipe has errors. */
  bytes: Uint8Array | null
  figure: Figure | null
  check: ShippedCheck | null
  problems: Problem[]
}

/** Builds a figure within its target, writes it as binary glTF with its clips, and reads it again. */
export async function shipFigure(
  builder: Builder,
  kits: Kits,
  recipe: Recipe,
  target: Target,
  options: PrepareOptions,
): Promise<Shipped> {
  const { prepared, problems } = await prepare(builder, kits, recipe, gltfTarget(target), options)
  if (!prepared) return { bytes: null, figure: null, check: null, problems }
  const { built, clips } = prepared
  const bytes = writeFigure(prepared)
  // what the builder remembers stays as it is
  const figure = { ...built, costs: { ...built.costs, fileBytes: bytes.length } }
  const read = await checkShipped(bytes, recipe.name, { called: calledIn(prepared), target })
  const check: ShippedCheck = {
    ...read,
    // to measure what keys have lost takes a thirtieth of all: of a crowd nobody asks it
    get passed() {
      return [...read.passed, ...keysTold(clips)]
    },
  }
  return {
    ...{ bytes, figure, check },
    problems: [...withoutEstimates(problems), ...overBudget(figure.costs, target), ...check.problems],
  }
}

/** What was found before a file was written; how large it was thought to become is known then. */
export const withoutEstimates = (problems: readonly Problem[]): Problem[] =>
  problems.filter((p) => p.code !== 'over-budget')

/** How a written file calls a bone of the open VRM standard. */
export const calledIn =
  ({ leaving, place }: Pick<Prepared, 'leaving' | 'place'>) =>
  (bone: string): string =>
    leaving.bones[place.get(bone) ?? -1]?.name ?? bone

/** What was left of the keys of all clips, and what that costs. */
export function keysTold(clips: readonly KeyedClip[]): string[] {
  if (clips.length === 0) return []
  const sum = (of: (clip: KeyedClip) => number) => clips.reduce((all, clip) => all + of(clip), 0).toLocaleString('en')
  const error = Math.max(...clips.map((c) => c.error())) * 1000
  return [
    `Clips have ${sum((c) => c.kept)} keys of ${sum((c) => c.of)}; no joint is off by more than ${error.toFixed(1)} mm.`,
  ]
}
