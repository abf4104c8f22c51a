import { pointTriangles, type Mesh } from './Mesh.ts'

/** Scratch that `computeNormals` needs for a mesh; make it once, reuse it on every step. */
export interface NormalScratch {
  triangles: Uint32Array // three points a triangle
  smooth: Float32Array // xyz a point
  leaned: Uint8Array // one a triangle: not 0 where a corner at one of its points leans towards the mean there
  touched: Uint8Array // one a point
}

export function createNormalScratch(
  mesh: Pick<Mesh, 'positions' | 'cornerPoints' | 'indices' | 'softness'>,
): NormalScratch {
  const points = mesh.positions.length
  const triangles = pointTriangles(mesh)
  const touched = new Uint8Array(points / 3)
  for (let c = 0; c < mesh.cornerPoints.length; c++) touched[mesh.cornerPoints[c]!]! |= mesh.softness[c]!
  const leaned = new Uint8Array(triangles.length / 3)
  for (let t = 0, i = 0; t < leaned.length; t++, i += 3)
    leaned[t] = touched[triangles[i]!]! | touched[triangles[i + 1]!]! | touched[triangles[i + 2]!]!
  return { triangles, smooth: new Float32Array(points), leaned, touched }
}

/**
 * Corner normals of a shape. A corner's normal is the area-weighted mean over the triangles that
 * share the corner (a flat quad shares two; a smooth patch many), leaned towards the point's own
 * mean by its softness. Allocates nothing; O(corners + triangles).
 *
 * @param positions xyz a point, metres
 * @param out       xyz a corner, unit length
 * @param known     another shape of the mesh with its normals: worked out anew is only what differs from it
 */
export function computeNormals(
  mesh: Pick<Mesh, 'cornerPoints' | 'indices' | 'softness'>,
  positions: Float32Array,
  out: Float32Array,
  scratch: NormalScratch,
  known?: { positions: Float32Array; normals: Float32Array },
): void {
  const { cornerPoints, indices, softness } = mesh
  const { triangles, smooth, leaned } = scratch
  const touched = known ? touchedPoints(triangles, positions, known.positions, scratch.touched) : null
  out.fill(0)
  smooth.fill(0)
  for (let t = 0, n = 0; t < indices.length; t += 3, n++) {
    const pa = triangles[t]!
    const pb = triangles[t + 1]!
    const pc = triangles[t + 2]!
    if (touched && (touched[pa]! | touched[pb]! | touched[pc]!) === 0) continue
    const ca = indices[t]! * 3
    const cb = indices[t + 1]! * 3
    const cc = indices[t + 2]! * 3
    const a = pa * 3
    const b = pb * 3
    const c = pc * 3
    const ax = positions[a]!
    const ay = positions[a + 1]!
    const az = positions[a + 2]!
    const ux = positions[b]! - ax
    const uy = positions[b + 1]! - ay
    const uz = positions[b + 2]! - az
    const vx = positions[c]! - ax
    const vy = positions[c + 1]! - ay
    const vz = positions[c + 2]! - az
    const nx = uy * vz - uz * vy
    const ny = uz * vx - ux * vz
    const nz = ux * vy - uy * vx
    out[ca]! += nx
    out[ca + 1]! += ny
    out[ca + 2]! += nz
    out[cb]! += nx
    out[cb + 1]! += ny
    out[cb + 2]! += nz
    out[cc]! += nx
    out[cc + 1]! += ny
    out[cc + 2]! += nz
    // most corners of low-poly figures lean nowhere
    if (leaned[n] === 0) continue
    smooth[a]! += nx
    smooth[a + 1]! += ny
    smooth[a + 2]! += nz
    smooth[b]! += nx
    smooth[b + 1]! += ny
    smooth[b + 2]! += nz
    smooth[c]! += nx
    smooth[c + 1]! += ny
    smooth[c + 2]! += nz
  }
  for (let corner = 0; corner < cornerPoints.length; corner++) {
    const i = corner * 3
    if (touched && !touched[cornerPoints[corner]!]) {
      out[i] = known!.normals[i]!
      out[i + 1] = known!.normals[i + 1]!
      out[i + 2] = known!.normals[i + 2]!
      continue
    }
    let x = out[i]!
    let y = out[i + 1]!
    let z = out[i + 2]!
    let length = Math.sqrt(x * x + y * y + z * z)
    if (length > 0) {
      x /= length
      y /= length
      z /= length
    }
    const soft = softness[corner]! / 255
    if (soft > 0) {
      const p = cornerPoints[corner]! * 3
      const sx = smooth[p]!
      const sy = smooth[p + 1]!
      const sz = smooth[p + 2]!
      const s = Math.sqrt(sx * sx + sy * sy + sz * sz)
      if (s > 0) {
        x += (sx / s - x) * soft
        y += (sy / s - y) * soft
        z += (sz / s - z) * soft
        length = Math.sqrt(x * x + y * y + z * z)
        // half of it leant to the other side leaves nothing
        if (length <= 1e-12) length = 0
        x /= length
        y /= length
        z /= length
      }
    }
    out[i] = length > 0 ? x : 0
    out[i + 1] = length > 0 ? y : 1
    out[i + 2] = length > 0 ? z : 0
  }
}

/** Into `touched`: 1 for every point of a triangle of which a point stands elsewhere than in the other shape. */
function touchedPoints(
  triangles: Uint32Array,
  positions: Float32Array,
  others: Float32Array,
  touched: Uint8Array,
): Uint8Array {
  const [moved, near] = [1, 2]
  for (let p = 0, i = 0; p < touched.length; p++, i += 3)
    touched[p] =
      positions[i] !== others[i] || positions[i + 1] !== others[i + 1] || positions[i + 2] !== others[i + 2] ? moved : 0
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]!
    const b = triangles[t + 1]!
    const c = triangles[t + 2]!
    if (((touched[a]! | touched[b]! | touched[c]!) & moved) === 0) continue
    touched[a]! |= near
    touched[b]! |= near
    touched[c]! |= near
  }
  return touched
}

/**
 * Unit normals of points: area-weighted mean over the triangles around each. xyz a point.
 *
 * @param only the points whose normals are asked for; what stands for the others means nothing
 */
export function pointNormals(positions: Float32Array, triangles: Uint32Array, only?: ArrayLike<number>): Float32Array {
  const out = new Float32Array(positions.length)
  const asked = only ? new Uint8Array(positions.length / 3) : null
  if (asked) for (let i = 0; i < only!.length; i++) asked[only![i]!] = 1
  for (let t = 0; t < triangles.length; t += 3) {
    if (asked && !asked[triangles[t]!] && !asked[triangles[t + 1]!] && !asked[triangles[t + 2]!]) continue
    // as `triangleNormal` has it, times the area; written out, as a brush asks for it twice with every move
    const a = triangles[t]! * 3
    const b = triangles[t + 1]! * 3
    const c = triangles[t + 2]! * 3
    const ux = positions[b]! - positions[a]!
    const uy = positions[b + 1]! - positions[a + 1]!
    const uz = positions[b + 2]! - positions[a + 2]!
    const vx = positions[c]! - positions[a]!
    const vy = positions[c + 1]! - positions[a + 1]!
    const vz = positions[c + 2]! - positions[a + 2]!
    const nx = uy * vz - uz * vy
    const ny = uz * vx - ux * vz
    const nz = ux * vy - uy * vx
    const area = Math.sqrt(nx * nx + ny * ny + nz * nz)
    if (area === 0) continue
    const x = (nx / area) * area
    const y = (ny / area) * area
    const z = (nz / area) * area
    out[a]! += x
    out[a + 1]! += y
    out[a + 2]! += z
    out[b]! += x
    out[b + 1]! += y
    out[b + 2]! += z
    out[c]! += x
    out[c + 1]! += y
    out[c + 2]! += z
  }
  for (let p = 0; p < out.length; p += 3) {
    if (asked && !asked[p / 3]) continue
    const length = Math.sqrt(out[p]! ** 2 + out[p + 1]! ** 2 + out[p + 2]! ** 2)
    if (length > 0) for (let k = 0; k < 3; k++) out[p + k]! /= length
    else out[p + 1] = 1
  }
  return out
}

/** Unit normal and doubled area of one triangle of points: [x, y, z, area * 2]. */
export function triangleNormal(
  positions: ArrayLike<number>,
  a: number,
  b: number,
  c: number,
): [number, number, number, number] {
  const ax = positions[a * 3]!
  const ay = positions[a * 3 + 1]!
  const az = positions[a * 3 + 2]!
  const ux = positions[b * 3]! - ax
  const uy = positions[b * 3 + 1]! - ay
  const uz = positions[b * 3 + 2]! - az
  const vx = positions[c * 3]! - ax
  const vy = positions[c * 3 + 1]! - ay
  const vz = positions[c * 3 + 2]! - az
  const x = uy * vz - uz * vy
  const y = uz * vx - ux * vz
  const z = ux * vy - uy * vx
  const length = Math.sqrt(x * x + y * y + z * z)
  return length > 0 ? [x / length, y / length, z / length, length] : [0, 1, 0, 0]
}
