import type { BodyDef, ExpressionDef, SliderDef } from './schema.ts'

/** What an expression is called in files and by clips: as the open VRM standard has it, where it has a name for it. */
export const expressionName = ({ preset, id }: Pick<ExpressionDef, 'preset' | 'id'>): string => preset ?? id

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
