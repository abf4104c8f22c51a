import {
  Builder,
  shipCarried,
  type Costs,
  type KeptClip,
  type Kits,
  type Problem,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import { readShelf, writeWhole } from './files.ts'
import { shareShelf } from './shareShelf.ts'

/** One figure to build and write. */
export interface ShipOrder {
  recipe: Recipe
  target: Target
  lods: boolean
  /** Clips made of keys that go along. */
  keyed: readonly KeptClip[]
  path: string
}

export interface ShipAnswer {
  /** Null when it was not written. */
  costs: Costs | null
  problems: Problem[]
}

/** Builds one figure and writes it. */
export type ShipOne = (order: ShipOrder) => Promise<ShipAnswer>

/** What builds figures of some kits, one after another: in a thread of its own or where it is called. */
export async function openShipper(kits: Kits): Promise<ShipOne> {
  const shelf = await readShelf()
  shareShelf(shelf)
  const builder = new Builder(kits, shelf)
  return async ({ recipe, target, lods, keyed, path }) => {
    const { bytes, figure, problems } = await shipCarried(builder, kits, recipe, target, [], { lods, own: true, keyed })
    builder.forget()
    const named = problems.map((p) => ({ ...p, where: `${recipe.name}: ${p.where}` }))
    if (!bytes || !figure) return { costs: null, problems: named }
    const faults = await writeWhole(path, bytes)
    return { costs: faults.length ? null : figure.costs, problems: [...named, ...faults] }
  }
}
