import { middleOf, type Voxels } from './Voxels.ts'

/** Steps to the 26 cells around one: how far the number changes, and how long the step is, in cells. */
export function stepsIn({ size }: Voxels): { to: number; long: number }[] {
  const steps: { to: number; long: number }[] = []
  for (let z = -1; z <= 1; z++)
    for (let y = -1; y <= 1; y++)
      for (let x = -1; x <= 1; x++)
        if (x || y || z) steps.push({ to: x + size[0] * (y + size[1] * z), long: Math.hypot(x, y, z) })
  return steps
}

/** The island each filled cell is of, from 1 on, the largest first; 0 where nothing is. */
export function islandsOf(voxels: Voxels): { of: Uint16Array; sizes: number[] } {
  const { solid } = voxels
  const steps = stepsIn(voxels)
  const of = new Uint16Array(solid.length)
  const found: number[][] = []
  for (let start = 0; start < solid.length && found.length < 65_000; start++) {
    if (!solid[start] || of[start]) continue
    const cells = [start]
    of[start] = found.length + 1
    for (let head = 0; head < cells.length; head++)
      for (const { to } of steps) {
        const next = cells[head]! + to
        if (!solid[next] || of[next]) continue
        of[next] = found.length + 1
        cells.push(next)
      }
    found.push(cells)
  }
  found.sort((a, b) => b.length - a.length)
  found.forEach((cells, n) => cells.forEach((i) => (of[i] = n + 1)))
  return { of, sizes: found.map((cells) => cells.length) }
}

/**
 * Bridges the gaps between islands, as where a head stands off its neck: a row of cells along the shortest way to the
 * largest.
 *
 * @param far no gap wider than this is bridged, in cells
 * @returns how many islands are left that nothing joins
 */
export function joinIslands(voxels: Voxels, far: number): number {
  const { of, sizes } = islandsOf(voxels)
  const cells: number[][] = sizes.map(() => [])
  of.forEach((n, i) => n && cells[n - 1]!.push(i))
  const joined = cells[0] ? [...cells[0]] : []
  let left = 0
  for (const island of cells.slice(1)) {
    const [from, to, gap] = nearestPair(voxels, rimOf(voxels, island), rimOf(voxels, joined))
    if (gap > far) {
      left++
      continue
    }
    bridge(voxels, from, to)
    for (const i of island) joined.push(i)
  }
  return left
}

/** Those of some filled cells that have an empty one beside them. */
function rimOf({ size, solid }: Voxels, cells: readonly number[]): number[] {
  const around = [1, size[0], size[0] * size[1]]
  return cells.filter((i) => around.some((d) => !solid[i + d] || !solid[i - d]))
}

function nearestPair(voxels: Voxels, these: readonly number[], those: readonly number[]): [number, number, number] {
  const far = Float32Array.from(those.flatMap((i) => middleOf(voxels, i)))
  let best: [number, number, number] = [these[0]!, those[0]!, Infinity]
  for (const i of these) {
    const [x, y, z] = middleOf(voxels, i)
    for (let k = 0; k < those.length; k++) {
      const d = (far[k * 3]! - x) ** 2 + (far[k * 3 + 1]! - y) ** 2 + (far[k * 3 + 2]! - z) ** 2
      if (d < best[2]) best = [i, those[k]!, d]
    }
  }
  return [best[0], best[1], Math.sqrt(best[2]) / voxels.cell]
}

function bridge(voxels: Voxels, from: number, to: number): void {
  const { size, solid } = voxels
  const split = (i: number) => [i % size[0], Math.floor(i / size[0]) % size[1], Math.floor(i / (size[0] * size[1]))]
  const [a, b] = [split(from), split(to)]
  const steps = Math.max(...a.map((v, k) => Math.abs(v - b[k]!)))
  for (let s = 0; s <= steps; s++) {
    const [x, y, z] = a.map((v, k) => Math.round(v + ((b[k]! - v) * s) / Math.max(1, steps))) as [
      number,
      number,
      number,
    ]
    solid[x + size[0] * (y + size[1] * z)] = 1
  }
}
