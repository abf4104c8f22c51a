import { connectedPieces } from '../mesh/adjacency.ts'
import { weldRows } from '../mesh/weld.ts'
import type { Soup } from './Voxels.ts'

/**
 * The triangles of each piece that hangs together, by their numbers; vertices at one place are one, whatever color or shading
 * parts them.
 */
export function piecesOf({ positions, triangles }: Soup): number[][] {
  const { kindOf, first } = weldRows(positions, 3)
  const { pieceOf, count } = connectedPieces(
    Uint32Array.from(triangles, (v) => kindOf[v]!),
    first.length,
  )
  const pieces: number[][] = Array.from({ length: count }, () => [])
  for (let t = 0; t < triangles.length / 3; t++) pieces[pieceOf[kindOf[triangles[t * 3]!]!]!]!.push(t)
  // places that no triangle uses are pieces of nothing
  return pieces.filter((p) => p.length > 0)
}

/** The corners of some triangles, three each. */
export function cornersOf({ triangles }: Soup, piece: readonly number[]): Uint32Array {
  const corners = new Uint32Array(piece.length * 3)
  piece.forEach((t, i) => corners.set(triangles.subarray(t * 3, t * 3 + 3), i * 3))
  return corners
}

/** The area of a triangle, by its number. */
export function areaAt({ positions: p, triangles }: Soup, t: number): number {
  const [a, b, c] = [triangles[t * 3]! * 3, triangles[t * 3 + 1]! * 3, triangles[t * 3 + 2]! * 3]
  const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!]
  const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!]
  return Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2
}
