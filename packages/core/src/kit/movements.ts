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

/** Some of a body's sliders by its groups, in the body's order; groups without any are left out. */
export function slidersByGroup(
  { sliderGroups }: Pick<BodyDef, 'sliderGroups'>,
  sliders: readonly SliderDef[],
): (BodyDef['sliderGroups'][number] & { sliders: SliderDef[] })[] {
  return sliderGroups
    .map((g) => ({ ...g, sliders: sliders.filter((s) => s.group === g.id) }))
    .filter((g) => g.sliders.length > 0)
}
