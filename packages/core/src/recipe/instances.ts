import type { PartInstance, Recipe, Reference, SliderValue } from './schema.ts'

/** The instances in a slot, in the order of their ids. */
export function partsIn(recipe: Recipe, slot: string): PartInstance[] {
  return recipe.parts.filter((p) => p.slot === slot).sort((a, b) => (a.id < b.id ? -1 : 1))
}

/** The part in a slot, the first where there are several; undefined where it is empty. */
export function partIn(recipe: Recipe, slot: string): Reference | undefined {
  return partsIn(recipe, slot)[0]?.part
}

/** An instance id that is free in the recipe: the slot's name, with a number behind it where that is taken. */
export function freeInstanceId(parts: readonly PartInstance[], slot: string): string {
  const taken = new Set(parts.map((p) => p.id))
  let id = slot
  for (let n = 2; taken.has(id); n++) id = `${slot}-${n}`
  return id
}

/** The values on the figure's left and right. */
export function sides(value: SliderValue): [left: number, right: number] {
  return typeof value === 'number' ? [value, value] : value
}

/** One number for what has one number to show: the mean of both sides. */
export function meanValue(value: SliderValue): number {
  const [left, right] = sides(value)
  return left === right ? left : (left + right) / 2
}
