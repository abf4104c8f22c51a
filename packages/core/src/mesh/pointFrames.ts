import type { Packed } from './adjacency.ts'
import { pointNormals } from './normals.ts'

/** Below this a direction is none, metres. */
const NOTHING = 1e-9

/**
 * The frames of some points of a surface, which turn with it: a direction along it towards a neighbour, one across,
 * and out of it. Nine numbers a point, the three axes as rows.
 *
 * @param positions xyz a point, metres
 * @param triangles three points a triangle
 */
export function pointFrames(
  positions: Float32Array,
  triangles: Uint32Array,
  { starts, items }: Packed,
  points: ArrayLike<number>,
): Float32Array {
  const normals = pointNormals(positions, triangles, points)
  const out = new Float32Array(points.length * 9)
  for (let i = 0; i < points.length; i++) {
    const p = points[i]!
    const nx = normals[p * 3]!
    const ny = normals[p * 3 + 1]!
    const nz = normals[p * 3 + 2]!
    let tx = 0
    let ty = 0
    let tz = 0
    // the first neighbour that is not straight above
    for (let n = starts[p]!; n < starts[p + 1]!; n++) {
      const q = items[n]! * 3
      const dx = positions[q]! - positions[p * 3]!
      const dy = positions[q + 1]! - positions[p * 3 + 1]!
      const dz = positions[q + 2]! - positions[p * 3 + 2]!
      const out = dx * nx + dy * ny + dz * nz
      ;[tx, ty, tz] = [dx - out * nx, dy - out * ny, dz - out * nz]
      const length = Math.hypot(tx, ty, tz)
      if (length > NOTHING) {
        ;[tx, ty, tz] = [tx / length, ty / length, tz / length]
        break
      }
      ;[tx, ty, tz] = [0, 0, 0]
    }
    if (tx === 0 && ty === 0 && tz === 0) {
      // a point by itself has no way along; any one will do
      const up = Math.abs(ny) < 0.9
      const [ux, uy] = up ? [0, 1] : [1, 0]
      const along = ux * nx + uy * ny
      const length = Math.hypot(ux - along * nx, uy - along * ny, along * nz)
      ;[tx, ty, tz] = [(ux - along * nx) / length, (uy - along * ny) / length, (-along * nz) / length]
    }
    out.set([tx, ty, tz, ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx, nx, ny, nz], i * 9)
  }
  return out
}
