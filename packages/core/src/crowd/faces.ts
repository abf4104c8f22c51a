import type { BodyDef } from '../kit/schema.ts'
import { setExpression } from '../recipe/expressions.ts'
import { createRandom, scatterSeed } from '../recipe/random.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { KindCrowd } from './chooseKind.ts'
import { inShares } from './shares.ts'

/** Keeps the draws of faces apart from all others. */
const FACES = 0x66616365

/** Gives every figure that is not pinned one of the mix's faces: shares are met to within one, and who makes which hangs on the seed alone. */
export function withFaces<T extends { recipe: Recipe; pinned: boolean }>(
  mix: Pick<KindCrowd, 'expressions' | 'count' | 'seed'>,
  body: BodyDef,
  chosen: T[],
): T[] {
  const choices = (mix.expressions ?? []).filter((e) => e.share > 0)
  if (choices.length === 0) return chosen
  const faces = inShares(
    choices.map((c) => c.share),
    mix.count,
  ).flatMap((count, i) => Array.from({ length: count }, () => choices[i]!.id))
  const random = createRandom(scatterSeed(mix.seed ^ FACES))
  for (let i = faces.length - 1; i > 0; i--) {
    const k = Math.floor(random.next() * (i + 1))
    ;[faces[i], faces[k]] = [faces[k]!, faces[i]!]
  }
  return chosen.map((one, place) => {
    const face = faces[place]
    return one.pinned || !face ? one : { ...one, recipe: setExpression(one.recipe, body, face) }
  })
}
