import type { BodyDef, SliderDef } from './schema.ts'

/** The sliders of a body that are movements, as of a face; what an expression sets. */
export function movementsOf(body: Pick<BodyDef, 'sliders' | 'sliderGroups'>): SliderDef[] {
  const moving = new Set(body.sliderGroups.filter((g) => g.moves).map((g) => g.id))
  return body.sliders.filter((s) => moving.has(s.group))
}

/** The sliders of a body that are its shape: all others. */
export function shapeSlidersOf(body: Pick<BodyDef, 'sliders' | 'sliderGroups'>): SliderDef[] {
  const moving = new Set(movementsOf(body))
  return body.sliders.filter((s) => !moving.has(s))
}
