import {
  Builder,
  shipCarried,
  type Costs,
  type KeptClip,
  type Kit,
  type Problem,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import { readKitFolders, readShelf, writeWhole } from './files.ts'
import { shareShelf } from './shareShelf.ts'

/** One figure to build and write. */
export interface ShipOrder {
  recipe: Recipe
  target: Target
  lods: boolean
  /** Clips made of keys that go along. */
  keyed: readonly KeptClip[]
  /** Folders with kits. */
  kits: string[]
  path: string
}

export interface ShipAnswer {
  /** Null when it was not written. */
  costs: Costs | null
  problems: Problem[]
}

interface Bench {
  kits: Map<string, Kit>
  builder: Builder
}

const benches = new Map<string, Promise<Bench>>()

/** Builds a figure and writes it; kits are read once. Runs in a thread of its own or where it is called. */
export async function shipOne({ recipe, target, lods, keyed, kits: folders, path }: ShipOrder): Promise<ShipAnswer> {
  const key = folders.join('\n')
  let bench = benches.get(key)
  if (!bench) benches.set(key, (bench = openBench(folders)))
  const { kits, builder } = await bench
  const { bytes, figure, problems } = await shipCarried(builder, kits, recipe, target, [], { lods, own: true, keyed })
  const named = problems.map((p) => ({ ...p, where: `${recipe.name}: ${p.where}` }))
  if (!bytes || !figure) return { costs: null, problems: named }
  const faults = await writeWhole(path, bytes)
  return { costs: faults.length ? null : figure.costs, problems: [...named, ...faults] }
}

async function openBench(folders: readonly string[]): Promise<Bench> {
  const { kits } = await readKitFolders(folders)
  const shelf = await readShelf()
  shareShelf(shelf)
  return { kits, builder: new Builder(kits, shelf) }
}
