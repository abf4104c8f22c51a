import type { Packed } from '../mesh/adjacency.ts'
import { pointNormals, triangleNormal } from '../mesh/normals.ts'
import { Surface } from '../mesh/Surface.ts'

/**
 * Which triangle beneath each point of an outer layer keeps it out, found once in the rest shape.
 * In any other shape a point is then pushed clear by one plane test, with no search.
 */
export interface Anchors {
  /** Points of the outer layer. */
  points: Uint32Array
  /** The three inner points whose plane each must stay above; length 3n. */
  planes: Uint32Array
  /** The least height above each plane, metres. */
  gap: number
}

/*
 * Lengths are those of a grown person; the bodies' own scale is multiplied in.
 */

/** Cloth is at most this thick on a grown person, metres. */
export const THICKEST = 0.022
/** A point farther than this from the layer beneath is never pushed, metres. */
const REACH = 0.05

export interface LayerShape {
  positions: Float32Array // xyz a point, rest shape
  triangles: Uint32Array // three points each
}

/**
 * @param gap       the least distance wanted, metres
 * @param tolerance how deep a point may be sunk at rest and still be pulled out; deeper is on purpose
 * @param scale     of the body
 * @param accept    which inner triangles count
 */
export function anchorPoints(
  outer: LayerShape,
  inner: Surface,
  gap: number,
  tolerance: number,
  scale: number,
  accept?: (triangle: number) => boolean,
): Anchors {
  const points: number[] = []
  const planes: number[] = []
  for (let p = 0; p < outer.positions.length / 3; p++) {
    const x = outer.positions[p * 3]!
    const y = outer.positions[p * 3 + 1]!
    const z = outer.positions[p * 3 + 2]!
    const place = inner.nearest(x, y, z, REACH * scale, accept)
    if (!place) continue
    const [a, b, c] = [0, 1, 2].map((k) => inner.triangles[place.triangle * 3 + k]!) as [number, number, number]
    const n = triangleNormal(inner.positions, a, b, c)
    const height =
      (x - inner.positions[a * 3]!) * n[0] +
      (y - inner.positions[a * 3 + 1]!) * n[1] +
      (z - inner.positions[a * 3 + 2]!) * n[2]
    // beside the triangle rather than above or below it: its plane says nothing about the point
    if (Math.abs(height) < place.distance * 0.7) continue
    if (height < -tolerance) continue
    points.push(p)
    planes.push(a, b, c)
  }
  return { points: Uint32Array.from(points), planes: Uint32Array.from(planes), gap }
}

/**
 * Lifts the outer points that are below their least height, along the plane's normal. Allocates
 * nothing; O(anchors). Returns how many were moved.
 */
export function pushClear(outer: Float32Array, inner: Float32Array, anchors: Anchors): number {
  const { points, planes, gap } = anchors
  let moved = 0
  for (let i = 0; i < points.length; i++) {
    const a = planes[i * 3]! * 3
    const b = planes[i * 3 + 1]! * 3
    const c = planes[i * 3 + 2]! * 3
    const ax = inner[a]!
    const ay = inner[a + 1]!
    const az = inner[a + 2]!
    const ux = inner[b]! - ax
    const uy = inner[b + 1]! - ay
    const uz = inner[b + 2]! - az
    const vx = inner[c]! - ax
    const vy = inner[c + 1]! - ay
    const vz = inner[c + 2]! - az
    const nx = uy * vz - uz * vy
    const ny = uz * vx - ux * vz
    const nz = ux * vy - uy * vx
    const length = Math.sqrt(nx * nx + ny * ny + nz * nz)
    if (length < 1e-12) continue
    const p = points[i]! * 3
    const height = ((outer[p]! - ax) * nx + (outer[p + 1]! - ay) * ny + (outer[p + 2]! - az) * nz) / length
    const lack = gap - height
    if (lack <= 0) continue
    const push = lack / length
    outer[p]! += nx * push
    outer[p + 1]! += ny * push
    outer[p + 2]! += nz * push
    moved++
  }
  return moved
}

/** What stands higher above a layer than this is meant to, as a collar is; it has not come through, metres. */
const POKE = 0.012
/** A surface lies over a point if it faces the same way, at least by this cosine. */
const SAME_WAY = 0.3

/**
 * How far each point of an outer layer has to be let out, in the rest shape, to lie over an inner
 * one: the lack of height where it is sunk, or where a point of the inner layer has come out
 * through one of its triangles, shared with its neighbours so that cloth keeps its thickness. xyz a
 * point, metres; null where nothing is sunk.
 */
export function letOut(
  outer: LayerShape,
  neighbours: Packed,
  inner: Surface,
  gap: number,
  tolerance: number,
  scale: number,
): Float32Array | null {
  const count = outer.positions.length / 3
  const directions = new Float32Array(count * 3)
  const heights = new Float32Array(count).fill(Infinity)
  let sunk = false
  for (let p = 0; p < count; p++) {
    const x = outer.positions[p * 3]!
    const y = outer.positions[p * 3 + 1]!
    const z = outer.positions[p * 3 + 2]!
    const place = inner.nearest(x, y, z, REACH * scale)
    if (!place) continue
    const [a, b, c] = [0, 1, 2].map((k) => inner.triangles[place.triangle * 3 + k]!) as [number, number, number]
    const n = triangleNormal(inner.positions, a, b, c)
    const height = (x - place.point[0]) * n[0] + (y - place.point[1]) * n[1] + (z - place.point[2]) * n[2]
    if (height < -tolerance) continue
    for (let k = 0; k < 3; k++) directions[p * 3 + k] = n[k]!
    heights[p] = height
    if (height < 0) sunk = true
  }
  const own = new Surface(outer.positions, outer.triangles)
  const pokes = pokesThrough(outer, own, inner, directions, POKE * scale)
  if (!sunk && pokes.length === 0) return null
  // the outer wall of thick cloth stands off the inner one as far as it is thick, or that would come out through it
  const thick = heights.map((h, p) => (h === Infinity ? 0 : wallBeneath(outer, own, p, directions, scale)))
  let lack = heights.map((h, p) => Math.max(0, gap + thick[p]! - h))
  for (const { corners, rise } of pokes) for (const p of corners) lack[p] = Math.max(lack[p]!, gap + rise)
  for (let round = 0; round < 2; round++) {
    const next = lack.slice()
    for (let p = 0; p < count; p++)
      for (let i = neighbours.starts[p]!; i < neighbours.starts[p + 1]!; i++)
        next[p] = Math.max(next[p]!, lack[neighbours.items[i]!]!)
    lack = next
  }
  return directions.map((d, i) => d * lack[Math.floor(i / 3)]!)
}

/** How far beneath a point its own cloth has another wall, one that faces down, metres; 0 where it has none close by. */
function wallBeneath(
  { positions, triangles }: LayerShape,
  own: Surface,
  p: number,
  away: Float32Array,
  scale: number,
): number {
  const [x, y, z] = positions.subarray(p * 3, p * 3 + 3) as unknown as [number, number, number]
  const [ux, uy, uz] = away.subarray(p * 3, p * 3 + 3) as unknown as [number, number, number]
  const place = own.nearest(x, y, z, THICKEST * scale, (t) => {
    const n = triangleNormal(positions, triangles[t * 3]!, triangles[t * 3 + 1]!, triangles[t * 3 + 2]!)
    return n[0] * ux + n[1] * uy + n[2] * uz < -SAME_WAY
  })
  if (!place) return 0
  const [px, py, pz] = place.point
  const far = (x - px) * ux + (y - py) * uy + (z - pz) * uz
  // beside it, where two walls meet, there is none beneath
  return far > place.distance * 0.7 ? far : 0
}

/** The outer triangles through which points of the inner layer have come, and by how much, metres. */
function pokesThrough(
  outer: LayerShape,
  surface: Surface,
  inner: Surface,
  away: Float32Array,
  far: number,
): { corners: number[]; rise: number }[] {
  const facing = pointNormals(inner.positions, inner.triangles)
  const normalOf = (t: number) =>
    triangleNormal(outer.positions, outer.triangles[t * 3]!, outer.triangles[t * 3 + 1]!, outer.triangles[t * 3 + 2]!)
  // an inner wall faces what is beneath: behind it is where the layer beneath has its own inner wall
  const facesIn = (t: number, n: readonly number[]) =>
    [0, 1, 2].some((k) => {
      const p = outer.triangles[t * 3 + k]! * 3
      return away[p]! * n[0]! + away[p + 1]! * n[1]! + away[p + 2]! * n[2]! < 0
    })
  const found: { corners: number[]; rise: number }[] = []
  for (let p = 0; p < inner.positions.length; p += 3) {
    const [nx, ny, nz] = facing.subarray(p, p + 3) as unknown as [number, number, number]
    const over = (t: number) => {
      const n = normalOf(t)
      return n[0] * nx + n[1] * ny + n[2] * nz > SAME_WAY && !facesIn(t, n)
    }
    const [x, y, z] = inner.positions.subarray(p, p + 3) as unknown as [number, number, number]
    const place = surface.nearest(x, y, z, far, over)
    if (!place) continue
    const n = normalOf(place.triangle)
    const rise = (x - place.point[0]) * n[0] + (y - place.point[1]) * n[1] + (z - place.point[2]) * n[2]
    // beside the triangle, or beneath it as it should be
    if (rise < Math.max(1e-4, place.distance * 0.7)) continue
    found.push({ corners: [0, 1, 2].map((k) => outer.triangles[place.triangle * 3 + k]!), rise })
  }
  return found
}
