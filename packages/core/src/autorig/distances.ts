import { stepsIn } from './islands.ts'
import type { Voxels } from './Voxels.ts'

/**
 * How far each filled cell is from the nearest empty one, middle to middle, in cells; exact.
 *
 * Source: Felzenszwalb and Huttenlocher, “Distance Transforms of Sampled Functions” (2012).
 */
export function depthsOf({ size, solid }: Voxels): Float32Array {
  const far = 1e9
  const squared = Float64Array.from(solid, (s) => (s ? far : 0))
  const [nx, ny, nz] = size
  const longest = Math.max(...size)
  const row = new Float64Array(longest)
  const parabolas = new Int32Array(longest)
  const ends = new Float64Array(longest + 1)
  const sweep = (start: number, stride: number, n: number) => {
    for (let q = 0; q < n; q++) row[q] = squared[start + q * stride]!
    let k = 0
    parabolas[0] = 0
    ends[0] = -Infinity
    ends[1] = Infinity
    for (let q = 1; q < n; q++) {
      let s: number
      for (;;) {
        const p = parabolas[k]!
        s = (row[q]! + q * q - (row[p]! + p * p)) / (2 * q - 2 * p)
        if (s > ends[k]!) break
        k--
      }
      k++
      parabolas[k] = q
      ends[k] = s
      ends[k + 1] = Infinity
    }
    k = 0
    for (let q = 0; q < n; q++) {
      while (ends[k + 1]! < q) k++
      const p = parabolas[k]!
      squared[start + q * stride] = (q - p) ** 2 + row[p]!
    }
  }
  for (let z = 0; z < nz; z++) for (let y = 0; y < ny; y++) sweep(nx * (y + ny * z), 1, nx)
  for (let z = 0; z < nz; z++) for (let x = 0; x < nx; x++) sweep(x + nx * ny * z, nx, ny)
  for (let y = 0; y < ny; y++) for (let x = 0; x < nx; x++) sweep(x + nx * y, nx * ny, nz)
  return Float32Array.from(squared, Math.sqrt)
}

export interface Ways {
  /** The least cost of a way from a source; Infinity where none leads. */
  cost: Float32Array
  /** The cell before on that way; -1 at sources. */
  before: Int32Array
}

/**
 * The cheapest ways through filled cells (Dijkstra with a binary heap, to all 26 neighbours).
 *
 * @param sources cells, each with the cost it begins at
 * @param price   of a cell: the cost of a step into it is its length in cells times that; 1 each if left out
 * @param reach   whether a cell is gone into at a cost; every one if left out
 */
export function waysFrom(
  voxels: Voxels,
  sources: Iterable<readonly [number, number]>,
  price?: (cell: number) => number,
  reach?: (cell: number, cost: number) => boolean,
): Ways {
  const { solid } = voxels
  const cost = new Float32Array(solid.length).fill(Infinity)
  const before = new Int32Array(solid.length).fill(-1)
  const steps = stepsIn(voxels)
  const heap = new Heap()
  for (const [cell, c] of sources) {
    if (c >= cost[cell]!) continue
    cost[cell] = c
    heap.push(cell, c)
  }
  while (heap.size > 0) {
    const c = heap.least
    const cell = heap.pop()
    if (c > cost[cell]!) continue
    for (const { to, long } of steps) {
      const next = cell + to
      if (!solid[next]) continue
      const total = Math.fround(c + long * (price ? price(next) : 1))
      if (total >= cost[next]! || (reach && !reach(next, total))) continue
      cost[next] = total
      before[next] = cell
      heap.push(next, total)
    }
  }
  return { cost, before }
}

/** The cells of the way to one, from it back to its source. */
export function wayBack({ before }: Ways, cell: number): number[] {
  const way = [cell]
  for (let at = before[cell]!; at >= 0; at = before[at]!) way.push(at)
  return way
}

/** Numbers by their cost, the least first. */
class Heap {
  private readonly items: number[] = []
  private readonly costs: number[] = []

  get size(): number {
    return this.items.length
  }

  get least(): number {
    return this.costs[0]!
  }

  push(item: number, cost: number): void {
    const { items, costs } = this
    let i = items.length
    items.push(item)
    costs.push(cost)
    while (i > 0) {
      const up = (i - 1) >> 1
      if (costs[up]! <= cost) break
      items[i] = items[up]!
      costs[i] = costs[up]!
      i = up
    }
    items[i] = item
    costs[i] = cost
  }

  pop(): number {
    const { items, costs } = this
    const first = items[0]!
    const item = items.pop()!
    const cost = costs.pop()!
    const n = items.length
    if (n === 0) return first
    let i = 0
    for (;;) {
      let down = i * 2 + 1
      if (down >= n) break
      if (down + 1 < n && costs[down + 1]! < costs[down]!) down++
      if (costs[down]! >= cost) break
      items[i] = items[down]!
      costs[i] = costs[down]!
      i = down
    }
    items[i] = item
    costs[i] = cost
    return first
  }
}
