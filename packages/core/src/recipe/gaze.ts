import type { BodyDef, ExpressionDef, SliderDef } from '../kit/schema.ts'
import { sides } from './instances.ts'
import type { Recipe } from './schema.ts'
import { setSide, type Side } from './symmetry.ts'

/** How far to the side and up eyes turn at the full value of their movement, degrees: what people's do with ease. */
const FULL_SIDE = 32
const FULL_UP = 22

/** Looking to the figure's left, and up, by the names the open VRM standard has for them. */
const WAYS = [
  { preset: 'lookLeft', full: FULL_SIDE },
  { preset: 'lookUp', full: FULL_UP },
] as const

/** Whether a body's eyes can be turned. */
export const canLook = (body: BodyDef): boolean => WAYS.every(({ preset }) => movementOf(body, preset) !== null)

/**
 * Turns the eyes, both or one side's, as far as they go. A body whose eyes cannot be turned stays as it is.
 *
 * @param toLeft from straight ahead, degrees, to the figure's left
 * @param up     from level, degrees
 */
export function lookTo(recipe: Recipe, body: BodyDef, toLeft: number, up: number, side: Side = 'both'): Recipe {
  return WAYS.reduce((next, { preset, full }, i) => {
    const way = movementOf(body, preset)
    if (!way) return next
    const share = Math.min(1, Math.max(-1, [toLeft, up][i]! / full))
    return setSide(next, way.slider, side, way.slider.default + share * way.value)
  }, recipe)
}

/** The expressions of looking along, to one side and the other, by the names the open VRM standard has for them. */
const LOOKS = [
  { ways: ['lookLeft', 'lookRight'], full: FULL_SIDE },
  { ways: ['lookUp', 'lookDown'], full: FULL_UP },
] as const

/** Those of a body's expressions that are ways of looking. */
export const lookExpressions = (body: Pick<BodyDef, 'expressions'>): ExpressionDef[] =>
  LOOKS.flatMap(({ ways }) => ways.flatMap((w) => body.expressions?.find((e) => e.preset === w) ?? []))

/**
 * How much of which expression it is to look somewhere, as far as eyes go; those that are none of it are not named.
 *
 * @param toLeft from straight ahead, degrees, to the figure's left
 * @param up     from level, degrees
 */
export function lookShares(body: Pick<BodyDef, 'expressions'>, toLeft: number, up: number): Record<string, number> {
  const shares: Record<string, number> = {}
  LOOKS.forEach(({ ways, full }, i) => {
    const angle = [toLeft, up][i]!
    const expression = body.expressions?.find((e) => e.preset === ways[angle < 0 ? 1 : 0])
    const share = Math.min(1, Math.abs(angle) / full)
    if (expression && share > 0) shares[expression.id] = share
  })
  return shares
}

/** The one movement an expression consists of, and its value there. */
function movementOf(body: BodyDef, preset: string): { slider: SliderDef; value: number } | null {
  const expression = body.expressions?.find((e: ExpressionDef) => e.preset === preset)
  const [only, ...others] = Object.entries(expression?.values ?? {})
  const slider = only && body.sliders.find((s) => s.id === only[0])
  return slider && others.length === 0 ? { slider, value: sides(only[1])[0] - slider.default } : null
}
