import { boundsOf } from '../mesh/Mesh.ts'
import { cornersOf, piecesOf } from './pieces.ts'

/** Triangles as they lie in space: xyz a point, three points a triangle. */
export interface Soup {
  positions: Float32Array
  triangles: Uint32Array
}

/** What of space a figure fills, in cubes of one size; the outermost layer is empty. */
export interface Voxels {
  /** Cells along x, y and z. */
  size: readonly [number, number, number]
  /** Edge of a cell, in the unit of the triangles. */
  cell: number
  /** The corner of the first cell. */
  origin: readonly [number, number, number]
  /** One where it is filled; x + size[0] * (y + size[1] * z). */
  solid: Uint8Array
}

/** A triangle of a component whose area vectors sum to more than this share of its area is part of a sheet. */
const SHEET = 0.6
/** Centres are looked at a little aside, by so much of a cell along x, y, z: meshes have their edges at round numbers. */
const ASIDE = [0.00131, 0.00217, 0.00173] as const

/**
 * Fills what a figure of closed, open, nested and turned pieces encloses. A cell is inside a component where signed
 * crossings say so along two of three axes; what cannot be reached from outside is inside too; sheets and what is thinner
 * than a cell are there by their surface.
 *
 * @param along cells along the longest side
 */
export function voxelsOf(soup: Soup, along: number): Voxels {
  const { positions } = soup
  const { min, max } = boundsOf(positions)
  const cell = Math.max(...max.map((v, k) => v - min[k]!), 1e-9) / along
  const size = max.map((v, k) => Math.ceil((v - min[k]!) / cell) + 3) as [number, number, number]
  // a cell and a half around it: what lies on the outermost face is not cut off by rounding
  const origin = min.map((v) => v - cell * 1.5) as [number, number, number]
  const count = size[0] * size[1] * size[2]
  const voxels: Voxels = { size, cell, origin, solid: new Uint8Array(count) }
  const surface = new Uint32Array(count)
  const votes = new Uint8Array(count)
  for (const [n, faces] of piecesOf(soup).entries()) {
    const piece = { positions, triangles: cornersOf(soup, faces) }
    const open = openness(piece) > SHEET
    const touched = surfaceCells(piece, voxels, surface, n + 1)
    if (!open) {
      const filled: number[] = []
      for (let axis = 0; axis < 3; axis++) vote(piece, voxels, axis, votes, filled)
      for (const i of filled) {
        if (bits(votes[i]!) >= 2) voxels.solid[i] = 1
        votes[i] = 0
      }
    }
    const thin = open ? touched : touched.filter((i) => !isBacked(voxels, i))
    for (const i of thin) voxels.solid[i] = 1
  }
  const outside = reached(voxels, surface)
  for (let i = 0; i < count; i++) if (!outside[i] && !surface[i]) voxels.solid[i] = 1
  return voxels
}

const bits = (v: number) => (v & 1) + ((v >> 1) & 1) + ((v >> 2) & 1)

/** 0 for a closed surface, 1 for a flat sheet: the length of the sum of its area vectors over its area. */
function openness({ positions: p, triangles }: Soup): number {
  let [sx, sy, sz, area] = [0, 0, 0, 0]
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]! * 3
    const b = triangles[t + 1]! * 3
    const c = triangles[t + 2]! * 3
    const ux = p[b]! - p[a]!
    const uy = p[b + 1]! - p[a + 1]!
    const uz = p[b + 2]! - p[a + 2]!
    const vx = p[c]! - p[a]!
    const vy = p[c + 1]! - p[a + 1]!
    const vz = p[c + 2]! - p[a + 2]!
    const x = uy * vz - uz * vy
    const y = uz * vx - ux * vz
    const z = ux * vy - uy * vx
    sx += x
    sy += y
    sz += z
    area += Math.sqrt(x * x + y * y + z * z)
  }
  return area > 0 ? Math.sqrt(sx * sx + sy * sy + sz * sz) / area : 1
}

/**
 * The cells that triangles pass through, each once.
 *
 * @param mark is given `stamp`, a number of its own, in each of them
 */
function surfaceCells({ positions: p, triangles }: Soup, voxels: Voxels, mark: Uint32Array, stamp: number): number[] {
  const { cell } = voxels
  const cells: number[] = []
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]! * 3
    const b = triangles[t + 1]! * 3
    const c = triangles[t + 2]! * 3
    const longest = Math.max(between(p, a, b), between(p, b, c), between(p, c, a))
    const steps = Math.max(1, Math.ceil(longest / (cell * 0.5)))
    for (let i = 0; i <= steps; i++)
      for (let j = 0; j <= steps - i; j++) {
        const u = i / steps
        const v = j / steps
        const w = 1 - u - v
        const at = cellAt(
          voxels,
          p[a]! * w + p[b]! * u + p[c]! * v,
          p[a + 1]! * w + p[b + 1]! * u + p[c + 1]! * v,
          p[a + 2]! * w + p[b + 2]! * u + p[c + 2]! * v,
        )
        if (mark[at] === stamp) continue
        mark[at] = stamp
        cells.push(at)
      }
  }
  return cells
}

/** How far two places are apart, each the number of its x. */
function between(p: Float32Array, a: number, b: number): number {
  const [x, y, z] = [p[a]! - p[b]!, p[a + 1]! - p[b + 1]!, p[a + 2]! - p[b + 2]!]
  return Math.sqrt(x * x + y * y + z * z)
}

/** The number of the cell a place lies in; of the nearest one at the rim where it lies beyond. */
export function cellAt({ size, cell, origin }: Voxels, x: number, y: number, z: number): number {
  return (
    along(x, origin[0], cell, size[0]) +
    size[0] * (along(y, origin[1], cell, size[1]) + size[1] * along(z, origin[2], cell, size[2]))
  )
}

const along = (v: number, from: number, cell: number, n: number) =>
  Math.min(n - 1, Math.max(0, Math.floor((v - from) / cell)))

/** The middle of a cell. */
export function middleOf({ size, cell, origin }: Voxels, i: number): [number, number, number] {
  const x = i % size[0]
  const y = Math.floor(i / size[0]) % size[1]
  const z = Math.floor(i / (size[0] * size[1]))
  return [origin[0] + (x + 0.5) * cell, origin[1] + (y + 0.5) * cell, origin[2] + (z + 0.5) * cell]
}

/** Adds one axis's vote for the cells that lie between crossings of a closed component. */
function vote(
  { positions: p, triangles }: Soup,
  voxels: Voxels,
  axis: number,
  votes: Uint8Array,
  filled: number[],
): void {
  const { size, cell, origin } = voxels
  const [u, v] = [(axis + 1) % 3, (axis + 2) % 3] as const
  const crossings = new Map<number, number[]>()
  const [shiftU, shiftV, shiftD] = [u, v, axis].map((k) => origin[k]! / cell + 0.5 + ASIDE[k]!) as [
    number,
    number,
    number,
  ]
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]! * 3
    const b = triangles[t + 1]! * 3
    const c = triangles[t + 2]! * 3
    const au = p[a + u]! / cell - shiftU
    const bu = p[b + u]! / cell - shiftU
    const cu = p[c + u]! / cell - shiftU
    const av = p[a + v]! / cell - shiftV
    const bv = p[b + v]! / cell - shiftV
    const cv = p[c + v]! / cell - shiftV
    const area = (bu - au) * (cv - av) - (cu - au) * (bv - av)
    if (Math.abs(area) < 1e-12) continue
    const lowU = Math.ceil(Math.min(au, bu, cu))
    const highU = Math.floor(Math.max(au, bu, cu))
    const lowV = Math.ceil(Math.min(av, bv, cv))
    const highV = Math.floor(Math.max(av, bv, cv))
    const ad = p[a + axis]! / cell - shiftD
    const bd = p[b + axis]! / cell - shiftD
    const cd = p[c + axis]! / cell - shiftD
    for (let i = lowU; i <= highU; i++)
      for (let j = lowV; j <= highV; j++) {
        const wb = ((i - au) * (cv - av) - (cu - au) * (j - av)) / area
        const wc = ((bu - au) * (j - av) - (i - au) * (bv - av)) / area
        const wa = 1 - wb - wc
        if (wa < 0 || wb < 0 || wc < 0) continue
        const column = i + size[u]! * j
        const list = crossings.get(column)
        const depth = wa * ad + wb * bd + wc * cd
        if (list) list.push(depth, Math.sign(area))
        else crossings.set(column, [depth, Math.sign(area)])
      }
  }
  const strides = [1, size[0], size[0] * size[1]] as const
  const bit = 1 << axis
  for (const [column, list] of crossings) {
    const order = Array.from({ length: list.length / 2 }, (_, k) => k).sort((p, q) => list[p * 2]! - list[q * 2]!)
    const base = (column % size[u]!) * strides[u]! + Math.floor(column / size[u]!) * strides[v]!
    let winding = 0
    for (let k = 0; k + 1 < order.length; k++) {
      winding += list[order[k]! * 2 + 1]!
      if (winding === 0) continue
      const from = Math.ceil(list[order[k]! * 2]!)
      const to = Math.floor(list[order[k + 1]! * 2]!)
      for (let d = from; d <= to; d++) {
        const i = base + d * strides[axis]!
        if (votes[i] === 0) filled.push(i)
        votes[i]! |= bit
      }
    }
  }
}

/** Whether a cell of a surface or one beside it is filled; where none is, what the surface encloses is thinner than a cell. */
function isBacked({ size, solid }: Voxels, i: number): boolean {
  const [y, z] = [size[0], size[0] * size[1]]
  return Boolean(
    solid[i] || solid[i + 1] || solid[i - 1] || solid[i + y] || solid[i - y] || solid[i + z] || solid[i - z],
  )
}

/** Which cells are reached from the outermost layer without passing a surface. */
function reached({ size, solid }: Voxels, surface: Uint32Array): Uint8Array {
  const [nx, ny, nz] = size
  const out = new Uint8Array(solid.length)
  const queue = new Int32Array(solid.length)
  let tail = 1
  out[0] = 1
  for (let head = 0; head < tail; head++) {
    const i = queue[head]!
    const x = i % nx
    const y = Math.floor(i / nx) % ny
    const z = Math.floor(i / (nx * ny))
    for (let side = 0; side < 6; side++) {
      const up = side % 2 === 0
      const axis = side >> 1
      if (
        axis === 0
          ? up
            ? x === nx - 1
            : x === 0
          : axis === 1
            ? up
              ? y === ny - 1
              : y === 0
            : up
              ? z === nz - 1
              : z === 0
      )
        continue
      const j = i + (up ? 1 : -1) * (axis === 0 ? 1 : axis === 1 ? nx : nx * ny)
      if (out[j] || surface[j]) continue
      out[j] = 1
      queue[tail++] = j
    }
  }
  return out
}
