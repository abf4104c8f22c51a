import { depthsOf } from './distances.ts'
import { joinIslands } from './islands.ts'
import type { Point } from './landmarks.ts'
import { withoutProps } from './props.ts'
import { heightOf, mirrorOf } from './stance.ts'
import { voxelsOf, type Soup, type Voxels } from './Voxels.ts'

/** A figure that stands up along y and faces z, as it is looked at to find its joints. */
export interface StandingFigure {
  soup: Soup
  voxels: Voxels
  /** How deep each cell lies, in cells. */
  depth: Float32Array
  /** The lowest and highest filled slice, and how many there are from one to the other. */
  low: number
  tall: number
  /** Where its left and right meet, in cells, and how well they do. */
  plane: number
  overlap: number
  /** Islands that nothing joins. */
  loose: number
  /** Triangles of things it holds, by their number. */
  props: Set<number>
}

/** Gaps that are bridged, as a share of the cells along the longest side. */
const GAP = 0.05

/** What is closed in all round over so much of the height is filled: skirts and coats have no floor. */
const TUBE = 0.08

/** @param along cells along its longest side */
export function standingFigure(soup: Soup, along: number): StandingFigure {
  const { kept, props } = withoutProps(soup)
  const voxels = voxelsOf(kept, along)
  fillTubes(voxels, along * TUBE)
  const loose = joinIslands(voxels, along * GAP)
  const { low, high } = heightOf(voxels)
  const { plane, overlap } = mirrorOf(voxels, 0)
  return { soup, voxels, depth: depthsOf(voxels), low, tall: high - low + 1, plane, overlap, loose, props }
}

/** A place in cells, in the unit of the figure. */
export function toPlace({ voxels: { origin, cell } }: StandingFigure, x: number, y: number, z: number): Point {
  return [origin[0] + (x + 0.5) * cell, origin[1] + (y + 0.5) * cell, origin[2] + (z + 0.5) * cell]
}

/** The cell of a number, as x, y and z. */
export function cellPlace({ size }: Voxels, i: number): Point {
  return [i % size[0], Math.floor(i / size[0]) % size[1], Math.floor(i / (size[0] * size[1]))]
}

/** Fills what level slices close in, but for gaps of two cells, wherever that goes on over so many slices. */
function fillTubes({ size, solid }: Voxels, least: number): void {
  const [nx, ny, nz] = size
  const inside = new Uint8Array(solid.length)
  const queue = new Int32Array(nx * nz)
  for (let y = 1; y < ny - 1; y++) {
    const wall = new Uint8Array(nx * nz)
    for (let c = 0; c < wall.length; c++) wall[c] = solid[(c % nx) + nx * (y + ny * Math.floor(c / nx))]!
    const out = widened(wall, nx)
    let head = 0
    let tail = 1
    out[0] = 2
    queue[0] = 0
    while (head < tail) {
      const c = queue[head++]!
      const x = c % nx
      const visit = (n: number) => {
        if (n < 0 || n >= out.length || out[n]) return
        out[n] = 2
        queue[tail++] = n
      }
      if (x > 0) visit(c - 1)
      if (x < nx - 1) visit(c + 1)
      visit(c - nx)
      visit(c + nx)
    }
    const closed = widened(roomsIn(out, nx, least), nx)
    for (let c = 0; c < closed.length; c++) if (closed[c]) inside[(c % nx) + nx * (y + ny * Math.floor(c / nx))] = 1
  }
  for (let z = 0; z < nz; z++)
    for (let x = 0; x < nx; x++)
      for (let y = 0, from = 0; y <= ny; y++) {
        if (y < ny && inside[x + nx * (y + ny * z)]) continue
        if (y - from >= least) for (let k = from; k < y; k++) solid[x + nx * (k + ny * z)] = 1
        from = y + 1
      }
}

/** The cells of a slice that are zero, where at least so many hang together: less is a crack between two limbs. */
function roomsIn(slice: Uint8Array, nx: number, least: number): Uint8Array {
  const rooms = new Uint8Array(slice.length)
  const seen = Uint8Array.from(slice)
  for (let start = 0; start < slice.length; start++) {
    if (seen[start]) continue
    const cells = [start]
    seen[start] = 1
    for (let head = 0; head < cells.length; head++)
      for (const d of [1, -1, nx, -nx]) {
        const next = cells[head]! + d
        if (next < 0 || next >= slice.length || seen[next]) continue
        seen[next] = 1
        cells.push(next)
      }
    if (cells.length >= least) for (const c of cells) rooms[c] = 1
  }
  return rooms
}

/** A slice with all that lies beside what is in it. */
function widened(slice: Uint8Array, nx: number): Uint8Array {
  const out = new Uint8Array(slice.length)
  slice.forEach((v, c) => {
    if (!v) return
    for (const d of [0, 1, -1, nx, -nx, nx + 1, nx - 1, -nx + 1, -nx - 1])
      if (c + d >= 0 && c + d < out.length) out[c + d] = 1
  })
  return out
}
