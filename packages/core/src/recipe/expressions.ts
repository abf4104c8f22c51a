import { movementsOf } from '../kit/movements.ts'
import type { BodyDef, ExpressionDef, SliderDef } from '../kit/schema.ts'
import { setSliders } from './edits.ts'
import { sides } from './instances.ts'
import type { Recipe, SliderValue } from './schema.ts'
import { sidesOf } from './symmetry.ts'

type Sided = readonly [left: number, right: number]

/**
 * Every movement's values on left and right in a sum of expressions, each with its share, within what
 * the movements allow. No expression at all is the face at rest.
 */
export function faceOf(
  body: BodyDef,
  shares: readonly { expression: ExpressionDef; share: number }[],
): Record<string, [number, number]> {
  return Object.fromEntries(
    movementsOf(body).map((slider) => {
      const value = [0, 1].map((side) => {
        const moved = shares.reduce((sum, { expression, share }) => {
          const to = valueIn(expression, slider)[side]!
          return sum + share * (to - slider.default)
        }, 0)
        return Math.min(slider.max, Math.max(slider.min, slider.default + moved))
      })
      return [slider.id, value as [number, number]]
    }),
  )
}

/** Sets the whole face to a sum of expressions; what is shape stays. */
export function setFace(
  recipe: Recipe,
  body: BodyDef,
  shares: readonly { expression: ExpressionDef; share: number }[],
): Recipe {
  return setSliders(recipe, faceOf(body, shares), movementsOf(body))
}

/** Sets the face to one named expression, 0 to 1 strong. Throws a RangeError if the body has none of that name. */
export function setExpression(recipe: Recipe, body: BodyDef, id: string, strength = 1): Recipe {
  const expression = body.expressions?.find((e) => e.id === id)
  if (!expression) throw new RangeError(`“${body.name}” has no expression “${id}”.`)
  return setFace(recipe, body, [{ expression, share: strength }])
}

/** How near a face must come to an expression to be called by its name: a share of the expression's own length. */
const SAME = 0.02

/** The expression a face is, and how strongly; null if it is at rest, or one somebody made by hand. */
export function expressionOf(recipe: Recipe, body: BodyDef): { expression: ExpressionDef; strength: number } | null {
  const face = vectorOf(body, (slider) => sidesOf(recipe, slider))
  if (face.every((v) => v === 0)) return null
  let best: { expression: ExpressionDef; strength: number; off: number } | null = null
  for (const expression of body.expressions ?? []) {
    const full = vectorOf(body, (slider) => valueIn(expression, slider))
    const length2 = full.reduce((s, v) => s + v * v, 0)
    if (length2 === 0) continue
    // the nearest point on the way from rest to the expression
    const strength = Math.min(1, Math.max(0, full.reduce((s, v, i) => s + v * face[i]!, 0) / length2))
    const off = Math.sqrt(full.reduce((s, v, i) => s + (v * strength - face[i]!) ** 2, 0) / length2)
    if (off < SAME && strength > 0 && (!best || off < best.off)) best = { expression, strength, off }
  }
  return best && { expression: best.expression, strength: best.strength }
}

/** Whether every movement is at rest. */
export const isFaceAtRest = (recipe: Recipe, body: BodyDef): boolean =>
  movementsOf(body).every((slider) => sidesOf(recipe, slider).every((v) => v === slider.default))

function valueIn(expression: ExpressionDef, slider: SliderDef): Sided {
  return sides(Object.hasOwn(expression.values, slider.id) ? expression.values[slider.id]! : slider.default)
}

/** A face as one list of numbers: each movement's left and right, from rest. */
function vectorOf(body: BodyDef, of: (slider: SliderDef) => Sided): number[] {
  return movementsOf(body).flatMap((slider) => of(slider).map((v) => v - slider.default))
}

/** Sliders with an expression's values in place of the face they have; the shape stays. */
export function withExpression(
  sliders: Readonly<Record<string, SliderValue>>,
  body: BodyDef,
  expression: ExpressionDef | null,
): Record<string, SliderValue> {
  const face = faceOf(body, expression ? [{ expression, share: 1 }] : [])
  return { ...sliders, ...face }
}
