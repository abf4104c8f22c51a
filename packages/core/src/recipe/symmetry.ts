import type { BodyDef } from '../kit/schema.ts'
import { setSliders } from './edits.ts'
import { sides } from './instances.ts'
import type { Recipe, SliderValue } from './schema.ts'

/** The figure's own left and right, or both alike. */
export type Side = 'left' | 'right' | 'both'

type Sliders = BodyDef['sliders']

/** What a recipe says of a slider: [left, right]. */
export function sidesOf(recipe: Pick<Recipe, 'sliders'>, slider: Sliders[number]): [left: number, right: number] {
  return sides(Object.hasOwn(recipe.sliders, slider.id) ? recipe.sliders[slider.id]! : slider.default)
}

/** Sets a slider on one side of the figure, or on both alike. */
export function setSide(recipe: Recipe, slider: Sliders[number], side: Side, value: number): Recipe {
  const [left, right] = sidesOf(recipe, slider)
  const next: SliderValue = side === 'both' ? value : side === 'left' ? [value, right] : [left, value]
  return setSliders(recipe, { [slider.id]: next }, [slider])
}

/** The sliders whose two sides differ. */
export function unevenSliders(recipe: Pick<Recipe, 'sliders'>, sliders: Sliders): Sliders {
  return sliders.filter((slider) => {
    const [left, right] = sidesOf(recipe, slider)
    return left !== right
  })
}

/** Makes both sides alike: each slider goes to the middle of its two values, or takes that of one side. */
export function evenOut(recipe: Recipe, sliders: Sliders, like: Side = 'both'): Recipe {
  const values = unevenSliders(recipe, sliders).map((slider): [string, number] => {
    const [left, right] = sidesOf(recipe, slider)
    return [slider.id, like === 'both' ? (left + right) / 2 : like === 'left' ? left : right]
  })
  return setSliders(recipe, Object.fromEntries(values), sliders)
}

/**
 * Where a landmark's counterpart on the other side is, in a body at rest.
 *
 * @returns its id; the landmark's own in the middle plane; undefined where the body has none
 */
export function mirroredLandmark({ landmarks }: Pick<BodyDef, 'landmarks'>, id: string): string | undefined {
  const at = landmarks.find((l) => l.id === id)?.at
  if (!at) return undefined
  const size = Math.max(...landmarks.map((l) => Math.hypot(...l.at)))
  // points of a pair are set by hand, or by a program that rounds
  const near = size * 1e-3
  return landmarks.find((l) => Math.hypot(l.at[0] + at[0], l.at[1] - at[1], l.at[2] - at[2]) <= near)?.id
}
