import {
  problem,
  readClip,
  readMix,
  readMotionDocument,
  readRecipe,
  readTarget,
  type KeptClip,
  type Mix,
  type Motion,
  type Read,
  type Recipe,
  type ShipFormat,
  type Target,
} from '@idle-tinker/core'

/** What a crowd to ship is made from. */
export interface ShipCrowdInput {
  name: string
  recipes: Recipe[]
  /** What the recipes were made from, if they were. */
  mix: Mix | null
  target: Target
  pattern: string
  lods: boolean
  /** What each of them leaves as. */
  formats: ShipFormat[]
  /** Whether what the checks found at fault goes as well. */
  insist: boolean
  /** What its figures play besides the clips of their kits. */
  motions: Motion[]
  /** … clips of keys among them. */
  keyed: KeptClip[]
}

/** The same as it is asked for or lies in a row, its documents of any version. */
export interface ShipCrowdOrder extends Omit<
  ShipCrowdInput,
  'recipes' | 'mix' | 'target' | 'motions' | 'keyed' | 'formats' | 'insist'
> {
  recipes: unknown[]
  mix: unknown
  target: unknown
  /** Orders of before there were any have none. */
  motions?: unknown[]
  keyed?: unknown[]
  /** … and leave as binary glTF. */
  formats?: ShipFormat[]
  insist?: boolean
}

/** Reads the documents of an order; the first that cannot be read is told. */
export function readShipCrowd(order: ShipCrowdOrder, where: string): Read<ShipCrowdInput> {
  const recipes: Recipe[] = []
  if (!Array.isArray(order.recipes))
    return { value: null, problems: [problem('job', where, 'The order has no recipes.', 'Order it again.')] }
  for (const [i, recipe] of order.recipes.entries()) {
    const { value, problems } = readRecipe(recipe, `${where}/recipes/${i}`)
    if (!value) return { value: null, problems }
    recipes.push(value)
  }
  const mix = order.mix === null ? null : readMix(order.mix, `${where}/mix`)
  if (mix && !mix.value) return { value: null, problems: mix.problems }
  const target = readTarget(order.target, `${where}/target`)
  if (!target.value) return { value: null, problems: target.problems }
  const motions: Motion[] = []
  for (const [i, motion] of (order.motions ?? []).entries()) {
    const { value, problems } = readMotionDocument(motion, `${where}/motions/${i}`)
    if (!value) return { value: null, problems }
    motions.push(value)
  }
  const keyed: KeptClip[] = []
  for (const [i, clip] of (order.keyed ?? []).entries()) {
    const { value, problems } = readClip(clip, `${where}/keyed/${i}`)
    if (!value) return { value: null, problems }
    keyed.push(value)
  }
  const { formats = ['glb'], insist = false } = order
  return {
    value: { ...order, formats, insist, motions, keyed, recipes, mix: mix?.value ?? null, target: target.value },
    problems: [],
  }
}
