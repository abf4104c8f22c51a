import { transposed, type Packed } from './adjacency.ts'
import { pointTriangles, type Mesh } from './Mesh.ts'

/** Scratch that `computeNormals` needs for a mesh; make it once, reuse it on every step. */
export interface NormalScratch {
  triangles: Uint32Array // three points a triangle
  smooth: Float32Array // xyz a point
  leaned: Uint8Array // one a triangle: not 0 where a corner at one of its points leans towards the mean there
  /** What a shape needs that differs in few points from one that is known; made when the first is asked for. */
  near: NearScratch | null
}

interface NearScratch {
  trianglesOfPoint: Packed
  cornersOfPoint: Packed
  trianglesOfCorner: Packed
  soft: Uint8Array // not 0 for points at which a corner leans
  facets: Float64Array // xyz a triangle: its normal times its doubled area
  /** The points and triangles seen at this step hold its number. */
  step: number
  points: Uint32Array
  seen: Uint32Array
  worked: Uint32Array
}

/** Up to this share of points that differ, what is around them is worked out alone; gathering costs twice as much a point. */
const FEW = 0.3

/** @param triangles the points of its triangles, if they are known */
export function createNormalScratch(
  mesh: Pick<Mesh, 'positions' | 'cornerPoints' | 'indices' | 'softness'>,
  triangles = pointTriangles(mesh),
): NormalScratch {
  const soft = softPoints(mesh, mesh.positions.length / 3)
  const leaned = new Uint8Array(triangles.length / 3)
  for (let t = 0, i = 0; t < leaned.length; t++, i += 3)
    leaned[t] = soft[triangles[i]!]! | soft[triangles[i + 1]!]! | soft[triangles[i + 2]!]!
  return { triangles, smooth: new Float32Array(mesh.positions.length), leaned, near: null }
}

/** Not 0 for each point at which a corner leans. */
function softPoints({ cornerPoints, softness }: Pick<Mesh, 'cornerPoints' | 'softness'>, points: number): Uint8Array {
  const soft = new Uint8Array(points)
  for (let c = 0; c < cornerPoints.length; c++) soft[cornerPoints[c]!]! |= softness[c]!
  return soft
}

/**
 * Corner normals of a shape. A corner's normal is the area-weighted mean over the triangles that
 * share the corner (a flat quad shares two; a smooth patch many), leaned towards the point's own
 * mean by its softness. Allocates nothing; O(corners + triangles).
 *
 * @param positions xyz a point, metres
 * @param out       xyz a corner, unit length
 * @param known     another shape of the mesh with its normals: where few points differ, only what is around them is
 *                  worked out anew, and comes out the same to the last bit
 */
export function computeNormals(
  mesh: Pick<Mesh, 'cornerPoints' | 'indices' | 'softness'>,
  positions: Float32Array,
  out: Float32Array,
  scratch: NormalScratch,
  known?: { positions: Float32Array; normals: Float32Array },
): void {
  if (known && differAtMost(positions, known.positions, (positions.length / 3) * FEW))
    return renewNormals(mesh, positions, out, scratch, known)
  const { cornerPoints, indices, softness } = mesh
  const { triangles, smooth, leaned } = scratch
  out.fill(0)
  smooth.fill(0)
  for (let t = 0, n = 0; t < indices.length; t += 3, n++) {
    const ca = indices[t]! * 3
    const cb = indices[t + 1]! * 3
    const cc = indices[t + 2]! * 3
    const a = triangles[t]! * 3
    const b = triangles[t + 1]! * 3
    const c = triangles[t + 2]! * 3
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
    const p = cornerPoints[corner]! * 3
    finish(out, corner * 3, softness[corner]! / 255, smooth[p]!, smooth[p + 1]!, smooth[p + 2]!)
  }
}

/** Whether no more than so many points stand elsewhere in one shape than in another. */
function differAtMost(a: Float32Array, b: Float32Array, most: number): boolean {
  let count = 0
  for (let i = 0; i < a.length && count <= most; i += 3)
    if (a[i] !== b[i] || a[i + 1] !== b[i + 1] || a[i + 2] !== b[i + 2]) count++
  return count <= most
}

/** Makes a corner's normal of what its triangles come to, which stands in `out`, and what those around its point do. */
function finish(out: Float32Array, i: number, soft: number, sx: number, sy: number, sz: number): void {
  let x = out[i]!
  let y = out[i + 1]!
  let z = out[i + 2]!
  let length = Math.sqrt(x * x + y * y + z * z)
  if (length > 0) {
    x /= length
    y /= length
    z /= length
  }
  if (soft > 0) {
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

/** The same for a shape that differs little from one that is known: O(points), and what is around those that differ. */
function renewNormals(
  mesh: Pick<Mesh, 'cornerPoints' | 'indices' | 'softness'>,
  positions: Float32Array,
  out: Float32Array,
  scratch: NormalScratch,
  known: { positions: Float32Array; normals: Float32Array },
): void {
  const { triangles, smooth } = scratch
  const near = (scratch.near ??= createNear(mesh, triangles, positions.length / 3))
  const { trianglesOfPoint, cornersOfPoint, trianglesOfCorner, facets, points, seen, worked } = near
  const step = ++near.step
  let count = 0
  for (let p = 0, i = 0; i < positions.length; p++, i += 3) {
    const others = known.positions
    if (positions[i] === others[i] && positions[i + 1] === others[i + 1] && positions[i + 2] === others[i + 2]) continue
    for (let n = trianglesOfPoint.starts[p]!; n < trianglesOfPoint.starts[p + 1]!; n++) {
      const t = trianglesOfPoint.items[n]! * 3
      for (let k = t; k < t + 3; k++) {
        const q = triangles[k]!
        if (seen[q] === step) continue
        seen[q] = step
        points[count++] = q
      }
    }
  }
  out.set(known.normals)
  for (let at = 0; at < count; at++) {
    const p = points[at]!
    const i = p * 3
    smooth[i] = 0
    smooth[i + 1] = 0
    smooth[i + 2] = 0
    for (let n = trianglesOfPoint.starts[p]!; n < trianglesOfPoint.starts[p + 1]!; n++) {
      const triangle = trianglesOfPoint.items[n]!
      const f = triangle * 3
      if (worked[triangle] !== step) {
        worked[triangle] = step
        facet(positions, triangles, f, facets)
      }
      if (near.soft[p] !== 0) addTo(smooth, i, facets, f)
    }
    for (let m = cornersOfPoint.starts[p]!; m < cornersOfPoint.starts[p + 1]!; m++) {
      const corner = cornersOfPoint.items[m]!
      const o = corner * 3
      out[o] = 0
      out[o + 1] = 0
      out[o + 2] = 0
      for (let n = trianglesOfCorner.starts[corner]!; n < trianglesOfCorner.starts[corner + 1]!; n++)
        addTo(out, o, facets, trianglesOfCorner.items[n]! * 3)
      finish(out, o, mesh.softness[corner]! / 255, smooth[i]!, smooth[i + 1]!, smooth[i + 2]!)
    }
  }
}

function addTo(out: Float32Array, o: number, facets: Float64Array, f: number): void {
  out[o]! += facets[f]!
  out[o + 1]! += facets[f + 1]!
  out[o + 2]! += facets[f + 2]!
}

/** The normal of a triangle times its doubled area, as `computeNormals` has it. */
function facet(positions: Float32Array, triangles: Uint32Array, t: number, out: Float64Array): void {
  const a = triangles[t]! * 3
  const b = triangles[t + 1]! * 3
  const c = triangles[t + 2]! * 3
  const ax = positions[a]!
  const ay = positions[a + 1]!
  const az = positions[a + 2]!
  const ux = positions[b]! - ax
  const uy = positions[b + 1]! - ay
  const uz = positions[b + 2]! - az
  const vx = positions[c]! - ax
  const vy = positions[c + 1]! - ay
  const vz = positions[c + 2]! - az
  out[t] = uy * vz - uz * vy
  out[t + 1] = uz * vx - ux * vz
  out[t + 2] = ux * vy - uy * vx
}

function createNear(
  { cornerPoints, indices, softness }: Pick<Mesh, 'cornerPoints' | 'indices' | 'softness'>,
  triangles: Uint32Array,
  points: number,
): NearScratch {
  return {
    trianglesOfPoint: transposed(rowsOf(triangles, 3), points),
    cornersOfPoint: transposed(rowsOf(cornerPoints, 1), points),
    trianglesOfCorner: transposed(rowsOf(indices, 3), cornerPoints.length),
    soft: softPoints({ cornerPoints, softness }, points),
    facets: new Float64Array(triangles.length),
    step: 0,
    points: new Uint32Array(points),
    seen: new Uint32Array(points),
    worked: new Uint32Array(triangles.length / 3),
  }
}

/** A list of rows of so many values each. */
const rowsOf = (items: Uint32Array, stride: number): Packed => ({
  starts: Uint32Array.from({ length: items.length / stride + 1 }, (_, row) => row * stride),
  items,
})

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
    // as `triangleNormal` has it, times the doubled area; written out, as a brush asks for it twice with every move
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
    out[a]! += nx
    out[a + 1]! += ny
    out[a + 2]! += nz
    out[b]! += nx
    out[b + 1]! += ny
    out[b + 2]! += nz
    out[c]! += nx
    out[c + 1]! += ny
    out[c + 2]! += nz
  }
  for (let p = 0; p < out.length; p += 3) {
    if (asked && !asked[p / 3]) continue
    const x = out[p]!
    const y = out[p + 1]!
    const z = out[p + 2]!
    const length = Math.sqrt(x * x + y * y + z * z)
    out[p] = length > 0 ? x / length : 0
    out[p + 1] = length > 0 ? y / length : 1
    out[p + 2] = length > 0 ? z / length : 0
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

/** Unit normals of triangles of points, xyz each. */
export function triangleNormals(positions: ArrayLike<number>, triangles: Uint32Array): Float32Array {
  const out = new Float32Array(triangles.length)
  for (let t = 0; t < triangles.length; t += 3) {
    const n = triangleNormal(positions, triangles[t]!, triangles[t + 1]!, triangles[t + 2]!)
    out[t] = n[0]
    out[t + 1] = n[1]
    out[t + 2] = n[2]
  }
  return out
}
