import type { Voxels } from './Voxels.ts'

/** A connected patch of filled cells in one level slice, in cells. */
export interface Blob {
  /** Number of cells. */
  area: number
  /** The mean of its cells, across and along. */
  x: number
  z: number
  minX: number
  maxX: number
  minZ: number
  maxZ: number
  /** x + z * size[0] of its cells. */
  cells: number[]
}

/** The patches of one slice of voxels whose y is up, of so many cells at least, the largest first. */
export function blobsAt({ size, solid }: Voxels, y: number, wanted?: (cell: number) => boolean, least = 3): Blob[] {
  const [nx, ny, nz] = size
  const seen = new Uint8Array(nx * nz)
  const cellOf = (x: number, z: number) => x + nx * (y + ny * z)
  const there = (x: number, z: number) => {
    const i = cellOf(x, z)
    return solid[i] === 1 && (!wanted || wanted(i))
  }
  const blobs: Blob[] = []
  for (let z = 0; z < nz; z++)
    for (let x = 0; x < nx; x++) {
      if (seen[x + nx * z] || !there(x, z)) continue
      const cells = [x + nx * z]
      seen[cells[0]!] = 1
      for (let head = 0; head < cells.length; head++) {
        const cx = cells[head]! % nx
        const cz = Math.floor(cells[head]! / nx)
        for (let dz = -1; dz <= 1; dz++)
          for (let dx = -1; dx <= 1; dx++) {
            const next = cx + dx + nx * (cz + dz)
            if (cx + dx < 0 || cx + dx >= nx || cz + dz < 0 || cz + dz >= nz) continue
            if (seen[next] || !there(cx + dx, cz + dz)) continue
            seen[next] = 1
            cells.push(next)
          }
      }
      if (cells.length >= least) blobs.push(blobOf(cells, nx))
    }
  return blobs.sort((a, b) => b.area - a.area)
}

/** What is to be said of some cells of a slice. */
export function blobOf(cells: number[], nx: number): Blob {
  const blob: Blob = {
    ...{ area: cells.length, x: 0, z: 0, cells },
    ...{ minX: Infinity, maxX: -Infinity, minZ: Infinity, maxZ: -Infinity },
  }
  for (const c of cells) {
    const x = c % nx
    const z = Math.floor(c / nx)
    blob.x += x / cells.length
    blob.z += z / cells.length
    blob.minX = Math.min(blob.minX, x)
    blob.maxX = Math.max(blob.maxX, x)
    blob.minZ = Math.min(blob.minZ, z)
    blob.maxZ = Math.max(blob.maxZ, z)
  }
  return blob
}

/** The median of some numbers; NaN of none. */
export function medianOf(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted.length ? sorted[sorted.length >> 1]! : NaN
}

export const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v))
